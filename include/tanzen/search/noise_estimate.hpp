#pragma once

#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/problem.hpp"

#include <cstdint>
#include <functional>

namespace tanzen {

/// How much noise the values of an objective carry about a point.
struct NoiseEstimate {
  bool found = false;
  double level = 0;             ///< standard deviation of the noise; 0 where all values near the point are equal
  double value = 0;             ///< at the point
  double spacing = 0;           ///< of the values that told it, in sizes of the variables
  std::int64_t evaluations = 0; ///< that it took
};

/// Estimates the noise from nine equally spaced values along a random direction, each variable in its own size; where
/// the spacing shows to be too small or too large it is tried again with one a hundred times as large or as small, at
/// most five times (Moré and Wild, 2011, section 5). The rounding of a function without noise is noise, too.
///
/// `value` is asked for the values. Cost: 9 to 45 of them.
[[nodiscard]] NoiseEstimate estimate_noise(const std::function<double(const Vector&)>& value, const Vector& at,
                                           const Vector& sizes, RandomStream random);

/// The same of a problem's values, its own noise included.
[[nodiscard]] NoiseEstimate estimate_noise(const Problem& problem, const Vector& at, RandomStream random);

} // namespace tanzen
