#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// The cross-entropy method with independent normal distributions (Rubinstein, 1999; Kroese, Porotsky and Rubinstein,
/// 2006), the mean smoothed by a fixed part and the deviations by a shrinking one (the same). Points outside the bounds
/// are drawn again, and after ten times moved onto them: truncated normal distributions.
///
/// Cost: `population` values an iteration. Memory: one population.
struct CrossEntropy {
  std::optional<Index> population = {}; ///< unset: 10 n, at least 50
  double elite = 0.1;                   ///< part of the sample that the distributions are fitted to
  double smoothing = 0.8;               ///< of the mean: weight of the new one
  double deviation_smoothing = 0.9;     ///< of the deviations at the beginning
  double shrinking = 5;                 ///< the larger, the faster the deviations' smoothing fades
  double collapse = 1e-12; ///< done when the sample is narrower than this, relative to each variable's size

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
