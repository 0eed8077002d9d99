#pragma once

#include "tanzen/methods/fit/fit_region.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Powell's dogleg as a trust region in the scaled parameters: along the slope, then towards the step of Gauss and
/// Newton (Powell, 1970; Nocedal and Wright, 2006, section 4.1), with radius and scale after Moré (1978). Other losses
/// and bounds as in LevenbergMarquardt.
///
/// Cost of an iteration: one evaluation a trial, mostly one, and one Jacobian; m n^2 operations.
/// Memory: two numbers a residual, with difference derivatives n more.
struct Dogleg : FitRegion {
  static MethodCard card();
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
