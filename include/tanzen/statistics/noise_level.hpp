#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen {

/// What equally spaced values of one line say of the noise in them.
struct NoiseLevel {
  enum class Verdict {
    found,
    spacing_too_small, ///< half of the values or more are equal: the points lie too close
    spacing_too_large, ///< the function itself changes too much between them, by more than a tenth or at every order
  };

  Verdict verdict = Verdict::spacing_too_large;
  double level = 0; ///< the noise's standard deviation; 0 where no three orders agree. With too large a spacing it may
                    ///< be the function's own
  Vector levels;    ///< what each order of differences says, from the first on
};

/// The noise in values of a smooth function at equally spaced points of a line, from their differences of growing order
/// (Moré and Wild, 2011, "Estimating computational noise", section 3 and algorithm ECnoise): those of the function
/// fade, those of the noise do not. Accurate to some factor of two with nine values.
///
/// Requires at least 4 values, all finite.
[[nodiscard]] NoiseLevel noise_level(const Vector& values);

} // namespace tanzen
