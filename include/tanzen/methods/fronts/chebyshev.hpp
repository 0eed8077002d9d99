#pragma once

#include "tanzen/methods/global/local_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// A front by the largest objective, each in parts of its range and of a direction (Bowman, 1976; augmented as in
/// Steuer and Choo, 1983): the least t with f[j] <= t d[j], so that a local method with derivatives serves.
///
/// Cost: a local search for each objective and each point. Ends when all have been done.
struct Chebyshev {
  Index points = 50; ///< directions, at most, evenly on the simplex
  LocalChoice local;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
