#pragma once

#include "tanzen/methods/line/line_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Limited-memory BFGS: the two-loop recursion over the last `memory` steps (Nocedal, 1980; Nocedal and Wright, 2006,
/// algorithms 7.4 and 7.5), with a strong Wolfe line search.
///
/// The memory, unless set: every pair helps, and costs little beside the function where few variables make it short;
/// medians of values over 21 random starts to a gap of 1e-8 on the rotated ellipsoid of condition 1e6, with 5, 10, 20,
/// 40 pairs: in 20 variables 5373, 3651, 1129, 201; in 40 variables 6862, 5163, 4026, 2114.
///
/// Cost of an iteration: one value and one gradient a trial, mostly one; 4 * memory * n multiplications. Memory: 2 *
/// memory vectors, and with those of the run fewer than eight more.
struct Lbfgs {
  std::optional<Index> memory = {}; ///< unset: as many as there are variables, from 10 up to what a cache holds
  LineSettings line = {};
  std::optional<double> noise = {}; ///< as of bfgs

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;

 private:
  Search search_plainly(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
