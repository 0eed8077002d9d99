#pragma once

#include "tanzen/methods/fit/fit_region.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Variable projection: parameters that the residuals are linear in are put where they fit best whenever the others
/// move, so that the search is over the others alone (Golub and Pereyra, 1973), by the step that leaves out the second
/// part of the derivative (Kaufman, 1975), in a trust region as of LevenbergMarquardt. Which parameters are linear is
/// found from the formula (`Problem::linear_variables`); one with bounds counts as the others, and so do all of a black
/// box: then it is LevenbergMarquardt. Of another loss than squares the linear ones are fitted by weighting anew.
///
/// Cost of an iteration: one evaluation a trial, mostly one, and two Jacobians, one of them where the linear parameters
/// have arrived; m n^2 operations. A trial is at the linear parameters that the model expects; what the sum is where
/// they fit best follows from it without another evaluation, and is told as `reduced`. The last point is evaluated.
/// Memory: some four Jacobians where the search is, and as many where it tries.
struct VariableProjection : FitRegion {
  static MethodCard card();
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
