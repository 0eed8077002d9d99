#pragma once

#include "tanzen/problem/problem.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen {

/// The size that a value is measured by: its own, or what the run has changed it by since its start, as far as that is
/// below 1; 1 where the start had no value. A change of the value's unit changes it alike where it is below 1, and
/// asks for no less where it is above.
[[nodiscard]] inline double value_size(double value, double start_value) {
  const double change = std::abs(start_value - value);
  return std::max(std::abs(value), change < 1 ? change : 1.0);
}

/// How steep a function is at a point, whatever the units of variables and value: the largest of
/// abs(g_i) * max(abs(x_i), scale_i) / size of the value (Dennis and Schnabel, 1983, section 7.2). A slope towards a
/// near bound counts as far as the bound lets it. Cost: one pass over the variables; allocates nothing.
///
/// `value_size` may be 0: then any slope is infinitely steep.
[[nodiscard]] double relative_gradient(const Problem& problem, const Vector& x, const Vector& gradient,
                                       double value_size);

/// The largest of some widths, one a variable, each measured by max(abs(x_i), scale_i).
template <class Widths>
[[nodiscard]] double relative_size(const Problem& problem, const Vector& x, const Widths& widths) {
  double largest = 0;
  for (Index i = 0; i < x.size(); ++i)
    largest = std::max(largest, std::abs(widths.coeff(i)) / std::max(std::abs(x[i]), problem.typical_size(i)));
  return largest;
}

/// The largest step of a variable, likewise.
[[nodiscard]] inline double relative_step(const Problem& problem, const Vector& from, const Vector& to) {
  return relative_size(problem, to, to - from);
}

} // namespace tanzen
