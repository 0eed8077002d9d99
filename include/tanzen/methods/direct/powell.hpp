#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Conjugate directions from line searches alone (Powell, 1964, with his criterion for which
/// direction the new one replaces, so that they never become dependent). Lines end at the bounds. The first directions
/// are the coordinates', scaled by the region.
///
/// Cost: n + 1 line searches an iteration, each some 5 to 20 values. Memory: n directions.
struct Powell {
  double step = 0.05;      ///< first step of a line search, as a part of the region's width
  double tolerance = 1e-4; ///< of the line searches, relative to the step
  double collapse = 1e-9;  ///< done when an iteration moves less than this, relative to 1 + |x|

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
