#pragma once

#include "tanzen/methods/fronts/variation.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Many problems of one value at once, each a direction: a child of neighbours takes the place of those that it is
/// better for (Zhang and Li, 2007). Children come from crossover, as there, or from differences of neighbours, of which
/// one child takes few places, and parents are now and then taken from all (Li and Zhang, 2009). Objectives count in
/// parts of the range that the members span. Under constraints a member that breaks them less comes first.
///
/// Cost: one evaluation for each direction an iteration.
struct Decomposition {
  enum class By { chebyshev, boundary, sum };
  enum class Children { crossover, differences };

  Index population = 100; ///< at most so many directions, as fine a lattice as they allow
  By by = By::chebyshev;
  Children children = Children::crossover;
  Index neighbours = 20;
  double theta = 5;  ///< what the distance from the direction counts, by `boundary`
  double near = 0.9; ///< chance that parents are neighbours
  /// Members by one child. Unset: with crossover all it is better for, as in 2007, with differences 2, as in 2009.
  std::optional<Index> most_replaced = {};
  double step = 0.5; ///< of differences
  VariationChoice variation{.crossover = 1, .crossover_index = 20, .mutation = {}, .mutation_index = 20};

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
