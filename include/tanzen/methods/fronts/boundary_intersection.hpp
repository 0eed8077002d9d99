#pragma once

#include "tanzen/methods/global/local_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// A front where normals of the simplex between the best points of the objectives meet it (Das and Dennis, 1998,
/// section 4): points that are evenly spread on the simplex are about evenly spread on the front, also in its hollows.
///
/// Cost: a local search for each objective and each point. Ends when all have been done.
struct BoundaryIntersection {
  Index points = 50; ///< points of the simplex, at most
  LocalChoice local;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
