#pragma once

#include "tanzen/comparison/comparison.hpp"

#include <cstddef>
#include <string>
#include <vector>

namespace tanzen {

/// How much a method depends on something that varies: the success rates and anytime scores of its worst level and its
/// best.
struct RobustnessRow {
  std::string method = {}; ///< for settings, the method whose variants these are
  std::string factor = {}; ///< `start`, `settings`, or an option of the problems, such as `placement`, `noise`
  std::size_t levels = 0;
  Interval success_rates = {};
  Interval anytime = {};
  std::string worst = {}; ///< the level of the lowest anytime score
};

/// Over whatever varies in the results. For `start` the rates are the parts of the problems that were solved from every
/// start and from at least one. `comparisons` are of the same results.
[[nodiscard]] std::vector<RobustnessRow> robustness_of(const std::vector<ProblemComparison>& comparisons,
                                                       const Results& results);

} // namespace tanzen
