#pragma once

#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Sequential quadratic programming with a line search (Nocedal and Wright, 2006, algorithm 18.3): each iteration
/// minimizes a quadratic model of the Lagrangian under linearized constraints, within the bounds, and goes along that
/// step as far as the value plus the weighted violations falls; a full step that the constraints' curvature spoils is
/// corrected (section 15.6). Where linearized constraints cannot be kept together they may be broken at a price, the
/// elastic mode of section 18.3. The model is Powell's damped update (1978; procedure 18.2) or the exact Hessian of the
/// Lagrangian made positive definite.
///
/// Points are within the bounds from the first iteration on. Cost of an iteration: one evaluation and one Jacobian
/// where the first trial is taken, with the exact model one Hessian; some n^3 for each quadratic program.
struct SequentialQuadratic {
  enum class Model { bfgs, exact };
  Model model = Model::bfgs;
  double decrease = 1e-4; ///< part of the predicted fall of the merit to reach
  Index trials = 40;      ///< of a line search

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
