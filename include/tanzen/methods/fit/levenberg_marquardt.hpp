#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Levenberg and Marquardt's method as a trust region in the scaled parameters, with the step by QR factors and the
/// multiplier by safeguarded Newton steps (Moré, 1978, algorithms 5.5 and 7.1). Of another loss than squares the
/// residuals are weighted anew in each iteration. Within bounds the step is taken over the parameters that are free,
/// and projected.
///
/// Cost of an iteration: one evaluation a trial, mostly one, and one Jacobian (one gradient, or n or 2 n evaluations);
/// m n^2 operations.
/// Memory: two numbers a residual, with difference derivatives n more.
struct LevenbergMarquardt {
  double factor = 100;      ///< of the first radius, in units of the scaled start
  double tolerance = 1e-12; ///< relative: of the sum's fall, and of the radius

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
