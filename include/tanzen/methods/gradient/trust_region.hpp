#pragma once

#include "tanzen/methods/gradient/trust_region_step.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Newton's method within a trust region (Nocedal and Wright, 2006, algorithm 4.1), with a choice of how the model is
/// minimized within it.
///
/// Cost of an iteration: one value; where the step is taken also one gradient and one Hessian (none with
/// `conjugate-gradients`, whose products each count as a gradient). The nearly exact step takes an eigenvalue
/// decomposition, order n^3.
struct NewtonTrustRegion {
  enum class Subproblem {
    nearly_exact,        ///< Moré and Sorensen, 1983
    dogleg,              ///< Powell, 1970
    conjugate_gradients, ///< Steihaug, 1983; Toint, 1981
  };

  /// The unit of length along each variable; with conjugate gradients always its own.
  enum class Scaling {
    curvature, ///< 1 divided by the root of the largest curvature seen along it (Conn, Gould and Toint, 2000,
               ///< section 6.7)
    none,
  };

  Subproblem subproblem = Subproblem::nearly_exact;
  Scaling scaling = Scaling::curvature;
  double radius = 1;    ///< the first one
  double accept = 1e-4; ///< least ratio of actual to predicted reduction for a step to be taken

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;

 private:
  Search search_with_hessian(Evaluator& evaluate, Start start) const;
  Search search_with_products(Evaluator& evaluate, Start start) const;
};

/// The symmetric rank-one quasi-Newton method within a trust region (Nocedal and Wright, 2006, algorithm 6.2; Conn,
/// Gould and Toint, 1991): its estimates of the Hessian may be indefinite, and get better at that.
///
/// Cost of an iteration: one value and one gradient. Memory: one n-by-n matrix.
struct SymmetricRankOne {
  double radius = 1;
  double accept = 1e-4;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
