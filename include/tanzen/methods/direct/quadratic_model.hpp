#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// A trust region on quadratic models that interpolate 2 n + 1 values; with each new value the model changes as little
/// as it can in the Frobenius norm of its Hessian (Powell, 2004; 2006, for the trust region and its lower limit rho;
/// 2009, for the bounds). Variables are scaled by the region.
///
/// Cost: 2 n + 1 values to begin, then one an iteration, with order n^2 operations, n^3 for the step within n <= 60
/// variables. Memory: some 25 n^2 numbers.
struct QuadraticModel {
  double radius = 0.05;    ///< of the first trust region, as a part of the region's width
  double collapse = 1e-10; ///< done when the radius has come down to this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
