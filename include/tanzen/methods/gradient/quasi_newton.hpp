#pragma once

#include "tanzen/methods/line/line_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Quasi-Newton with the inverse Hessian updated by Broyden, Fletcher, Goldfarb and Shanno (1970) and a strong Wolfe
/// line search (Nocedal and Wright, 2006, algorithm 6.1 with equations 6.17 and 6.20).
///
/// With `noise` the differences and the line search are those of Berahas, Byrd and Nocedal (2019).
///
/// Cost of an iteration: one value and one gradient a trial, mostly one; with noise 2 n values and one a trial; order
/// n^2. Memory: one n-by-n matrix.
struct Bfgs {
  LineSettings line = {};
  std::optional<double> noise = {}; ///< standard deviation of the noise in values; 0: estimated; unset: none

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

/// The same with the update of Davidon (1959), Fletcher and Powell (1963), equation 6.15 there, which corrects bad
/// estimates more slowly and wants a more exact line search.
struct Dfp {
  LineSettings line = {.curvature = 0.1};

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
