#pragma once

#include "tanzen/analysis/sample.hpp"
#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"

#include <cstdint>

namespace tanzen {

/// A random sample of the region: for two variables the points coloured by their values, and in any case the values
/// against each of the first variables. Of several objectives the first two against each other, and beside it the
/// members in decision space, each a line over the variables in parts of the region (Inselberg, 1985), both coloured by
/// rank. Cost: `count` values, which count in no run.
[[nodiscard]] Figure sample_figure(const Problem& problem, Index count, Sampling sampling, std::uint64_t seed);

} // namespace tanzen
