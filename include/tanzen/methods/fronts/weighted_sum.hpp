#pragma once

#include "tanzen/methods/global/local_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// A front by weighted sums of the objectives, each in parts of its range, with any local method inside (Zadeh, 1963).
/// What lies in a hollow of the front is the least of no sum, and is not found (Das and Dennis, 1997).
///
/// Cost: a local search for each objective and each point. Ends when all have been done.
struct WeightedSums {
  Index points = 50; ///< weights, at most, evenly on the simplex
  LocalChoice local;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
