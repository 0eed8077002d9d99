#pragma once

#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/report/comparison_report.hpp"

#include <functional>
#include <optional>
#include <string>

namespace tanzen {

/// What a report of finished runs needs besides them.
struct CampaignReportOptions {
  std::optional<double> gap = {};     ///< what counts as a success; the smallest target where none is given
  std::string by = "trait";           ///< keys of groups, as of `group_problems`; apart by semicolons several
  std::optional<StopRules> stop = {}; ///< what each run was allowed
  std::string plan = {};              ///< as text; empty where there is none
  std::string command = {};           ///< that does the same again
  TrueFronts true_front = {};
  /// What a problem looks like by its label; none where there is nothing to see.
  std::function<std::optional<Figure>(const std::string& label)> landscape = {};
};

/// All that is to be told of finished runs, for colleagues who were not there: what was asked and how it was run, what
/// the data support, the tables, the figures of all problems and of each group of them, each problem with its landscape
/// and three of its runs a method (best, middle, worst), what failed, how to repeat it. The results were loaded with
/// their traces. The figures hold what they show, not the runs: from some four hundred repeats on their size no longer
/// grows.
[[nodiscard]] Report campaign_report(const Results& results, const CampaignReportOptions& options);

} // namespace tanzen
