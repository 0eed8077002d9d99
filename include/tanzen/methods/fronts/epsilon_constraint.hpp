#pragma once

#include "tanzen/methods/global/local_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// A front by the first objective alone, with limits on all others that go from their best values to those at the best
/// of the first (Haimes, Lasdon and Wismer, 1971), with any local method for constraints inside.
///
/// Cost: a local search for each objective and each point. Ends when all have been done.
struct EpsilonConstraint {
  Index points = 50; ///< limits, at most: of more than two objectives a grid
  LocalChoice local;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
