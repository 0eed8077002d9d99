#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen {

/// The two points of a difference along one variable: the derivative is about (f(up) - f(down)) / (up - down).
struct DifferencePair {
  double down = 0;
  double up = 0;
};

/// Points of a forward difference at `x`: x itself and x plus a step of sqrt(eps) * max(|x|, 1), which balances
/// truncation and rounding (Nocedal and Wright, 2006, section 8.1); the step turns around at a bound.
[[nodiscard]] DifferencePair forward_pair(double x, double lower, double upper);

/// Points of a central difference: steps of cbrt(eps) * max(|x|, 1) to both sides (same section), cut at the
/// bounds.
[[nodiscard]] DifferencePair central_pair(double x, double lower, double upper);

} // namespace tanzen
