#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// A pattern search that keeps a list of nondominated points, each with a step of its own, and polls around the one
/// with most room: new nondominated points enter the list with the step, and where none does the step is halved
/// (Custódio, Madeira, Vaz and Vicente, 2011, algorithm 3.1 without a search step). Points outside the bounds
/// are put onto them; what breaks constraints stays only while nothing keeps them.
///
/// Cost: at most 2 n evaluations an iteration. Ends where all steps are small.
struct DirectMultisearch {
  double step = 0.1;      ///< the first, in parts of the region
  double smallest = 1e-3; ///< steps below it are not polled with

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
