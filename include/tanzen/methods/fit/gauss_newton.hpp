#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Gauss and Newton's method with a line search (Nocedal and Wright, 2006, section 10.3): the step to the least point
/// of the linearized residuals, shortened until the sum falls enough (Armijo, 1966). Where the data leave a direction
/// open, the step is a basic one, with the rest of the parameters left where they are. Other losses are weighted anew
/// in each iteration; within bounds the step is taken over the parameters that are free, and projected.
///
/// Cost of an iteration: one evaluation a trial, mostly one, and one Jacobian; m n^2 operations.
/// Memory: two numbers a residual, with difference derivatives n more. Quick near an answer that fits well;
/// from far away, or with large residuals, the trust regions are surer.
struct GaussNewton {
  double decrease = 1e-4;   ///< part of the predicted fall that must come true
  Index trials = 30;        ///< of a line search
  double tolerance = 1e-12; ///< relative: of the sum's fall, and of the step

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
