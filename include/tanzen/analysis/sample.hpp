#pragma once

#include "tanzen/problem/problem.hpp"

#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

namespace tanzen {

/// How random points of a region are drawn.
enum class Sampling { uniform, latin_hypercube, sobol };

/// `uniform`, `latin-hypercube`, `sobol`; throws InputError, with the nearest word, for another one.
[[nodiscard]] Sampling parse_sampling(std::string_view word);

/// Points of a problem's region with what it says of them, a column each.
struct Sample {
  Matrix points = {};
  Matrix objectives = {};         ///< a row an objective, each in its own sense; NaN where there is no value
  Vector violations = {};         ///< zero where there are no constraints
  std::vector<int> ranks = {};    ///< of the feasible ones, 0 for the front; -1 for the others
  std::optional<Index> best = {}; ///< of one objective the best feasible one, or the least broken; nothing of several
};

/// Draws a sample. Cost: `count` evaluations, which count in no run. The same seed gives the same points.
[[nodiscard]] Sample draw_sample(const Problem& problem, Index count, Sampling sampling, std::uint64_t seed);

} // namespace tanzen
