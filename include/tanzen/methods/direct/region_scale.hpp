#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen::methods {

/// What coordinates are divided by so that the region is about the unit cube: its width along each variable, and 1
/// where it has none.
[[nodiscard]] inline Vector region_scale(const Box& region) {
  const Vector width = region.width();
  return (width.array() > 0).select(width, 1.0);
}

} // namespace tanzen::methods
