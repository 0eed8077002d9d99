#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Fits without derivatives: each residual is modelled by the linear function through n + 1 points, and the step is
/// that of Gauss and Newton within a trust region and the bounds; a second radius holds the least distance of the
/// points (Cartis, Fiala, Marteau and Roberts, 2019, algorithm 1, with n + 1 points and without restarts; the geometry
/// after Powell, 2009). Parameters are measured by their typical sizes. Other losses are weighted anew in each
/// iteration.
///
/// Cost: n + 1 evaluations, then one an iteration; m n + n^3 operations each. Memory: n + 2 numbers a residual.
struct DerivativeFreeFit {
  double radius = 0.1;    ///< first, in units of the parameters' typical sizes
  double collapse = 1e-9; ///< done when the least distance has come down to this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
