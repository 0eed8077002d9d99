#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Stochastic variance reduced gradient (Johnson and Zhang, 2013, figure 1, option I): from a point with its whole
/// gradient many steps by the gradients of a few rows, each corrected by what the same rows said at that point. As the
/// path settles the corrections take the variance away, and a constant step converges linearly on sums that are
/// strongly convex.
///
/// Of an objective that is no sum over data it is steepest descent. Cost of an iteration: one value, one gradient, and
/// 2 updates * batch / rows gradients more. Memory: a few vectors.
struct VarianceReduced {
  double step = 0.01;                ///< along the gradient of the mean term; below 1 / (4 L) in the theory
  Index batch = 1;                   ///< rows a step
  std::optional<Index> updates = {}; ///< between whole gradients; unset: 2 passes over the data, as for convex sums in
                                     ///< section 5 of the paper

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
