#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// A trust region on linear models of the objective and of every constraint, without derivatives (Powell, 1994,
/// sections 2 and 3): the models interpolate at n + 1 points, a step makes the model least within the trust region
/// where the linearized constraints are broken least, and a merit function, the value plus a price times the largest
/// violation, says whether it was good. Other steps keep the points apart from one plane. The radius only falls.
///
/// Steps are scaled by the region. Bounds are kept at every evaluation.
///
/// Cost: n evaluations at first, then at most one an iteration. Memory: three matrices n by n, and two of the rows by
/// n. Few evaluations where the answer sits on as many constraints as there are variables; many where the value curves
/// along the constraints, which linear models only feel from one step to the next.
struct LinearModel {
  double radius = 0.1;    ///< first trust region, as a part of the region's width
  double collapse = 1e-8; ///< done when the radius has come down to this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
