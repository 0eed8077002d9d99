#pragma once

#include "tanzen/numeric/random.hpp"
#include "tanzen/search/evaluator.hpp"

namespace tanzen::methods {

/// The standard deviation of the values of 10 n + 10 uniform points of the region, a natural first temperature (White,
/// 1984); 1 where they do not differ. Values that are missing are left out.
[[nodiscard]] double value_spread(Evaluator& evaluate, const RandomStream& random);

} // namespace tanzen::methods
