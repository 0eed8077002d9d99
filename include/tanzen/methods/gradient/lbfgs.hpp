#pragma once

#include "tanzen/methods/line/wolfe_step.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Limited-memory BFGS: the two-loop recursion over the last `memory` steps (Nocedal, 1980; Nocedal and Wright, 2006,
/// algorithms 7.4 and 7.5), with a strong Wolfe line search.
///
/// Cost of an iteration: one value and one gradient a trial, mostly one; 4 * memory * n multiplications. Memory: 2 *
/// memory vectors, and with those of the run fewer than eight more.
struct Lbfgs {
  Index memory = 10;
  WolfeSettings wolfe = {};

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
