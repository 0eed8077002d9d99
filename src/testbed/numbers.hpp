#pragma once

#include "tanzen/numeric/vector.hpp"

#include <numbers>

/// Numbers as formulas of test functions have them.
namespace tanzen::testbed {

using std::numbers::pi;

/// A counter as the number that it stands for.
[[nodiscard]] inline double number(Index i) {
  return static_cast<double>(i);
}

} // namespace tanzen::testbed
