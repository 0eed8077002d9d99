#pragma once

#include "tanzen/campaign/comparison.hpp"

#include <string>

namespace tanzen::cli {

/// The table of one problem: a row a method.
[[nodiscard]] std::string comparison_table(const ProblemComparison& comparison);

/// What gaps and costs are, below the tables.
[[nodiscard]] std::string comparison_notes(const ComparisonPlan& plan);

} // namespace tanzen::cli
