#pragma once

#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// A primal-dual interior-point method with a filter line search (Wächter and Biegler, 2006): Newton steps on the
/// optimality conditions with the products of multipliers and slacks at a barrier parameter that goes to zero. Its
/// linear systems are factored with the right numbers of positive and negative pivots (algorithm IC), steps are taken
/// that lower the violation or the barrier function (algorithm A), and where none does the violation alone is lowered
/// (section 3.3). Values and rows are scaled by their first gradients (section 3.8).
///
/// Points are strictly within the bounds; rows with one or two limits have slacks within theirs, which are eliminated.
/// Cost of an iteration: one evaluation and one Jacobian where the first trial is taken, one Hessian, or where there is
/// none Powell's damped update, and (n + m)^3 / 3 for each factorization.
struct InteriorPoint {
  double barrier = 0.1;    ///< the first barrier parameter
  double shrink = 0.2;     ///< of the barrier parameter, at least
  double accuracy = 1e-12; ///< where the barrier parameter ends, in scaled units
  Index trials = 40;       ///< of a line search

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
