#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Stochastic approximation by simultaneous perturbation (Spall, 1992; gains and their choice from the
/// first slopes: Spall, 1998, section III). Two values tell the slope along a random direction of signs; the step is
/// towards where the value falls. Steps are scaled by the region and projected onto the bounds, as is the perturbed
/// pair.
///
/// Cost: three values an iteration, one of them to know where it stands; 20 to choose the gain. Memory: 5 vectors.
struct Spsa {
  double step = 0.05;                ///< first step, as a part of the region's width
  double perturbation = 0.01;        ///< first perturbation, likewise
  double step_decay = 0.602;         ///< alpha: steps fall with the iterations to this power
  double perturbation_decay = 0.101; ///< gamma
  double steadying = 100;            ///< A: iterations before the steps begin to fall

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
