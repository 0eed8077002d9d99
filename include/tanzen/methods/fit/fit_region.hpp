#pragma once

#include "tanzen/search/settings.hpp"

namespace tanzen::methods {

/// The trust region of a fit, in scaled parameters (Moré, 1978): what methods with one have in common.
struct FitRegion {
  double factor = 100;      ///< of the first radius, in units of the scaled start
  double tolerance = 1e-12; ///< relative: of the sum's fall, and of the radius

  void settings(Settings& list);
};

} // namespace tanzen::methods
