#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Search along orthogonal directions that turn into the direction of progress (Rosenbrock, 1960): a step
/// that succeeds is made three times as long, one that fails is halved and reversed; once every direction has seen a
/// success and then a failure, the axes are turned by orthogonalizing the progress along them. Steps are scaled by the
/// region; points outside the bounds are moved onto them.
///
/// Cost: n values an iteration, which is one round of all directions. Memory: two matrices n by n.
struct RosenbrockRotation {
  double step = 0.05;      ///< first step, as a part of the region's width
  double collapse = 1e-10; ///< done when all steps are below this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
