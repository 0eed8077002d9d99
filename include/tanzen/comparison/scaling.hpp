#pragma once

#include "tanzen/comparison/comparison.hpp"

#include <string>
#include <vector>

namespace tanzen {

/// How the cost of success grows with the number of variables, for a method on a family of problems that differ in it
/// alone.
struct ScalingRow {
  std::string family = {}; ///< `rosenbrock`, with the options that its members share
  std::string method = {};
  std::vector<double> variables = {};
  std::vector<double> costs = {}; ///< expected running times; infinite where no run succeeded
  double exponent = 0;            ///< of the power law through the finite ones; NaN with fewer than two
  double exponent_error = 0;      ///< its standard error; infinite with two
};

/// A row for each family with at least two numbers of variables, and each method. `comparisons` are of the same
/// results.
[[nodiscard]] std::vector<ScalingRow> scaling_of(const std::vector<ProblemComparison>& comparisons,
                                                 const Results& results);

} // namespace tanzen
