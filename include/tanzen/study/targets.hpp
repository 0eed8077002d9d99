#pragma once

#include "tanzen/problem/problem.hpp"

#include <cstdint>
#include <vector>

namespace tanzen {

/// The usual targets: three gaps a decade, from the median gap of random points of the region down to the smallest;
/// of several objectives from 1, nothing covered, down to 0.01 where `smallest` is the usual one. Requires a problem
/// whose best value is known. Cost: 101 values; none, and from 1e2, where the objective is opaque.
[[nodiscard]] std::vector<double> usual_gaps(const Problem& problem, std::uint64_t seed, double smallest = 1e-7);

/// Three gaps a decade from the next below `largest` (1e12 at most) down to `smallest`, which is always the last.
[[nodiscard]] std::vector<double> gaps_from(double largest, double smallest = 1e-7);

} // namespace tanzen
