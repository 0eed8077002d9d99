#pragma once

#include "tanzen/methods/line/line_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Nonlinear conjugate gradients (Nocedal and Wright, 2006, algorithm 5.4) with a choice of the conjugacy parameter.
/// Directions begin anew with steepest descent where one is no descent direction, every `restart` iterations, and, but
/// for Hager and Zhang's, where successive gradients are far from orthogonal (Powell, 1977).
///
/// Cost of an iteration: one value and one gradient a trial of the line search, and one value more for the first trial
/// of Hager and Zhang's, which mostly needs no other. Memory: five vectors.
struct ConjugateGradient {
  enum class Formula {
    fletcher_reeves,  ///< Fletcher and Reeves, 1964
    polak_ribiere,    ///< Polak and Ribière, 1969, never below zero (Powell, 1984)
    hestenes_stiefel, ///< Hestenes and Stiefel, 1952, never below zero
    dai_yuan,         ///< Dai and Yuan, 1999
    hager_zhang,      ///< Hager and Zhang, 2005, equation 1.3; 2013, equation 2.4
  };

  Formula formula = Formula::hestenes_stiefel;
  LineRule line = LineRule::hager_zhang;
  double curvature = 0.1;            ///< the part of the slope that a step may leave
  std::optional<Index> restart = {}; ///< iterations between restarts; unset: the number of variables, at least 10,
                                     ///< with Fletcher-Reeves and Dai-Yuan, else none

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
