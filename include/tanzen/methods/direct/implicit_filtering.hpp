#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Implicit filtering (Gilmore and Kelley, 1995; Kelley, 2011): a quasi-Newton method, here
/// with the BFGS update and projected onto the bounds, whose gradients are differences over a stencil that begins wide
/// and is halved when the stencil, the gradient or the line search fails; so it does not see ripples narrower than the
/// stencil. Steps are scaled by the region; a stencil point outside the bounds is left out.
///
/// Cost: 2 n values an iteration for the stencil, and some for the line search. Memory: one matrix n by n.
struct ImplicitFiltering {
  double width = 0.25;    ///< first stencil, as a part of the region's width
  double tolerance = 1;   ///< the stencil is halved when the gradient is below this many stencils
  double collapse = 1e-8; ///< done when the stencil is below this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
