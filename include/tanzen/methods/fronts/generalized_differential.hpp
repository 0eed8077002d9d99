#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Differential evolution for one or several objectives and constraints: a trial takes its parent's place where it is
/// at least as good, and both stay where neither is; then the population is cut back by ranks, and in the last rank
/// again and again by the member with least room (Kukkonen and Lampinen, 2005).
///
/// Cost: `population` evaluations an iteration.
struct GeneralizedDifferential {
  Index population = 100;
  double step = 0.3;      ///< F
  double crossover = 0.3; ///< CR

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
