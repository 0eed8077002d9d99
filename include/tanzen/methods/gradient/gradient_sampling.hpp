#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Gradient sampling (Burke, Lewis and Overton, 2005, section 2): steepest descent along the shortest vector in the
/// hull of the gradients at the point and at random points of a ball around it, so that a kink shows from all its
/// sides. Where that vector is short, against the first one, or no step lowers the value, the ball shrinks. Lengths are
/// in units of the region's width.
///
/// Cost of an iteration: `samples` + 1 gradients and one value a trial of a step. Memory: so many vectors.
struct GradientSampling {
  std::optional<Index> samples = {}; ///< unset: 2 n, as in the paper; fewer than n + 1 lose its theory
  double radius = 0.1;               ///< of the first ball
  double shrink = 0.1;               ///< of the ball, and of what counts as a short vector
  double collapse = 1e-9;            ///< done when the ball is smaller

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
