#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Greedy search with random neighbours: the best of a handful of normally distributed points around the present one is
/// taken if it is better; if none is, the step shrinks (random search with a shrinking step; Matyas, 1965; Schumer and
/// Steiglitz, 1968). Steps are scaled by the region; points outside the bounds are moved onto them.
///
/// Cost: `neighbours` values an iteration. Memory: the neighbours.
struct HillClimb {
  std::optional<Index> neighbours = {}; ///< unset: 2 n, at least 8
  double step = 0.1;                    ///< first standard deviation, as a part of the region's width
  double shrink = 0.7;                  ///< factor of the step where no neighbour is better
  double collapse = 1e-10;              ///< done when the step is below this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
