#pragma once

#include "tanzen/problem/bounds.hpp"

namespace tanzen::methods {

/// Moves a point into the bounds by mirroring it at them as often as it takes. A function continued so over all of
/// space has the same minima, and one on a bound lies inside. Allocates nothing.
void mirror_into(const Bounds& bounds, Vector& point);

} // namespace tanzen::methods
