#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Nonlinear conjugate gradients (Nocedal and Wright, 2006, algorithm 5.4) with a choice of the conjugacy parameter.
/// Directions begin anew with steepest descent where successive gradients are far from orthogonal (Powell, 1977), where
/// one is no descent direction, and every `restart` iterations.
///
/// Cost of an iteration: one value and one gradient a trial of the line search, two or so of them. Memory: five
/// vectors.
struct ConjugateGradient {
  enum class Formula {
    fletcher_reeves,  ///< Fletcher and Reeves, 1964
    polak_ribiere,    ///< Polak and Ribière, 1969, never below zero (Powell, 1984)
    hestenes_stiefel, ///< Hestenes and Stiefel, 1952, never below zero
    dai_yuan,         ///< Dai and Yuan, 1999
    hager_zhang,      ///< Hager and Zhang, 2005, equations 1.3 to 1.6
  };
  enum class LineSearch { wolfe, exact };

  Formula formula = Formula::hager_zhang;
  LineSearch line = LineSearch::wolfe;
  double curvature = 0.1;            ///< of the strong Wolfe conditions
  std::optional<Index> restart = {}; ///< iterations between restarts; unset: the number of variables, at least 10

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
