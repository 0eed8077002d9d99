#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"

namespace tanzen {

/// How random points of a region are drawn.
enum class Sampling { uniform, latin_hypercube, sobol };

/// A random sample of the region: for two variables the points coloured by their values, and in any case the values
/// against each of the first variables. Cost: `count` values, which count in no run.
[[nodiscard]] Figure sample_figure(const Problem& problem, Index count, Sampling sampling, std::uint64_t seed);

} // namespace tanzen
