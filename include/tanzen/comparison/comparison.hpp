#pragma once

#include "tanzen/results/results.hpp"
#include "tanzen/statistics/summaries.hpp"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace tanzen {

/// What one method did on one problem.
struct ComparisonRow {
  std::string method = {};
  std::int64_t repeats = 0;
  std::int64_t successes = 0;
  Interval success_interval = {}; ///< Wilson, 95 %
  double lower_quartile_gap = 0;
  double median_gap = 0;
  double upper_quartile_gap = 0;
  double median_cost = 0;                           ///< to the gap; infinite where half the runs or more missed it
  std::optional<double> expected_running_time = {}; ///< none without a success
  Interval running_time_interval = {};              ///< bootstrap, 95 %; infinite above where a draw may miss
  double mean_rank = 0;                             ///< among the methods of the same repeat
  /// How many decades the gap falls for 100 evaluations at the end of a run, in the median of the runs that reached
  /// three targets; none where no run did.
  std::optional<double> rate = {};
  double anytime = 0;        ///< area under the distribution of costs to all targets, over the logarithm of the cost
  std::int64_t failures = 0; ///< runs that failed or diverged; they count as runs that missed
  std::string first_failure = {}; ///< what the first of them said
};

struct ProblemComparison {
  std::string problem = {};
  double gap = 0;                  ///< what counts as success
  double reference = 0;            ///< the value that gaps are measured from
  bool reference_is_known = false; ///< otherwise the best value of all these runs
  bool is_front = false;           ///< several objectives: gaps are shares of the true front's volume, or volumes
  std::vector<ComparisonRow> rows = {};
  /// What runs are ranked by, a row a repeat and a column a method: the cost of a success; failures above all
  /// successes, by their gaps.
  Matrix keys = {};
};

/// Sums finished runs up, problem by problem, over the repeats that all methods have done; a problem without any is
/// left out. A success is a run that came within `gap` of the reference (the smallest target where none is given). A
/// run that fails, diverges or runs out of budget stays in every denominator. Throws InputError where no repeat is
/// complete.
[[nodiscard]] std::vector<ProblemComparison> compare(const Results& results, std::optional<double> gap = {});

/// The costs that anytime scores are taken over: from one evaluation to the most that any run on the problem spent.
struct CostRange {
  double least = 1, most = 1;
};
[[nodiscard]] CostRange cost_range(const Results& results, std::size_t problem);

} // namespace tanzen
