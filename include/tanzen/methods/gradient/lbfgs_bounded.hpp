#pragma once

#include "tanzen/methods/line/line_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Limited-memory BFGS within bounds: the generalized Cauchy point of the model along the projected gradient path, then
/// the model's minimizer over the variables that are free there, in the compact representation (Byrd, Lu, Nocedal and
/// Zhu, 1995, algorithms CP and the direct primal method), with a strong Wolfe search towards it.
///
/// Cost of an iteration: one value and one gradient a trial, mostly one; some memory^2 * n multiplications. Memory:
/// 2 * memory vectors and about ten more. Without bounds it takes the steps of lbfgs, in exact arithmetic.
struct LbfgsBounded {
  Index memory = 10;
  LineSettings line = {};

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
