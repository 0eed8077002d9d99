#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// A trust region on quadratic models that interpolate values; with each new value the model changes as little as it
/// can in the Frobenius norm of its Hessian (Powell, 2004; 2006, for the trust region and its lower limit rho; 2009,
/// for the bounds). Variables are scaled by the region. It begins with 2 n + 1 values; while there are fewer than
/// `points`, a new one is added instead of taking the place of another.
///
/// How many, by medians of values over 21 random starts to a gap of 1e-8, with 2, 4 and 5 times n: the rotated
/// ellipsoid of condition 1e6 in 10 variables 3320, 1105, 617, in 20 variables (2, 3, 4 times) 14429, 10815, 9180;
/// rosenbrock in 2, 10 and 20 variables 109, 72, 72, then 1139, 1149, 1335, then 3471, 3520, 3581; to a gap of 1e-4 in
/// 40 variables with 2 and 3 times n 11637, 18371.
///
/// Cost: 2 n + 1 values to begin, then one an iteration, with order n^2 operations, n^3 for the step within n <= 60
/// variables. Memory: some 40 n^2 numbers.
struct QuadraticModel {
  double radius = 0.05;             ///< of the first trust region, as a part of the region's width
  std::optional<Index> points = {}; ///< most values that a model interpolates, 2 n + 1 at least; unset: 5 n, at most 80
  double collapse = 1e-10;          ///< done when the radius has come down to this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
