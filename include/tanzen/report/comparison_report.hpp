#pragma once

#include "tanzen/report/report.hpp"

#include "tanzen/comparison/comparison.hpp"
#include "tanzen/comparison/grouping.hpp"
#include "tanzen/comparison/robustness.hpp"
#include "tanzen/comparison/scaling.hpp"

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

namespace tanzen {

/// All that is said of finished runs.
struct ComparisonParts {
  std::vector<ProblemComparison> problems = {};
  std::vector<GroupComparison> groups = {};
  std::vector<ScalingRow> scaling = {};
  std::vector<RobustnessRow> robustness = {};
};

/// What is to be said of the results: success is a gap of `gap`; groups by `by`; of the problems that are `only`.
[[nodiscard]] ComparisonParts comparison_parts(const Results& results, std::optional<double> gap, const std::string& by,
                                               const std::string& only);

/// The table of one problem: a row a method.
[[nodiscard]] TitledTable problem_table(const ProblemComparison& comparison);

/// How many repeats succeeded, a row a problem and a column a method.
[[nodiscard]] TitledTable success_table(const std::vector<ProblemComparison>& comparisons);

/// The tables over several problems: groups, scaling, robustness.
[[nodiscard]] std::vector<TitledTable> group_tables(const ComparisonParts& parts);

/// All tables; those of single problems only where there are few, or `each` is wanted: otherwise one of successes.
[[nodiscard]] std::vector<TitledTable> comparison_tables(const ComparisonParts& parts, bool each);

/// What gaps and costs are, below the tables.
[[nodiscard]] std::string comparison_notes(const Results& results, const ComparisonParts& parts);

/// Why runs failed, a line a method and problem.
[[nodiscard]] std::vector<std::string> failure_lines(const ComparisonParts& parts);

/// What the numbers support and what they do not, a sentence a problem (where there are few) and one a group; none for
/// one method.
[[nodiscard]] std::vector<std::string> comparison_sentences(const ComparisonParts& parts, bool each);

/// All of it for a terminal: title, tables, failures, notes, sentences.
[[nodiscard]] std::string comparison_text(const Results& results, const ComparisonParts& parts, bool each,
                                          std::size_t width = usual_width);

/// The numbers of all problems and methods as one table, a line each; and all parts as one object.
[[nodiscard]] std::string comparison_to_csv(const ComparisonParts& parts);
[[nodiscard]] std::string comparison_to_json(const Results& results, const ComparisonParts& parts);

} // namespace tanzen
