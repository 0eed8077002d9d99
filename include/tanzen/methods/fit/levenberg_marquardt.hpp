#pragma once

#include "tanzen/methods/fit/fit_region.hpp"
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
struct LevenbergMarquardt : FitRegion {
  static MethodCard card();
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
