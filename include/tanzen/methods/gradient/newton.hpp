#pragma once

#include "tanzen/methods/line/line_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Newton's method with a line search; where the Hessian is not positive definite a multiple of the identity is added
/// until it is (Nocedal and Wright, 2006, algorithms 3.2 and 3.3).
///
/// Cost of an iteration: one Hessian, one value and one gradient a trial, and n^3 / 6 multiplications a factorization.
/// Works in one variable as well. Where the objective is opaque the Hessian comes from differences of gradients.
struct Newton {
  LineSettings line = {};

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

/// Newton's method without a Hessian: the equation is solved by conjugate gradients, to a part of the gradient that
/// shrinks with it, up to a direction of negative curvature (Dembo and Steihaug, 1983; Nocedal and Wright, 2006,
/// algorithm 7.1).
///
/// Cost of an iteration: one Hessian product an inner iteration, counted as a gradient; one value and one gradient a
/// trial of the line search. Memory: eight vectors.
struct TruncatedNewton {
  std::optional<Index> inner = {}; ///< most inner iterations; unset: twice the number of variables, at least 10
  LineSettings line = {};

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
