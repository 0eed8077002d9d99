#pragma once

#include "tanzen/methods/fronts/variation.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// An elitist genetic algorithm for many objectives: of the last rank that does not fit whole, those members survive
/// that are near directions which few of the others are near; directions lie evenly on the simplex of the objectives,
/// scaled by the ideal point and the plane through the extreme points (Deb and Jain, 2014, algorithms 1 to 4; under
/// constraints Jain and Deb, 2014).
///
/// Cost: `population` evaluations an iteration, and a distance for each member and direction.
struct ReferencePoints {
  /// Of one direction from corner to corner. Unset: 99, 12, 8, 6, 4 for two to six objectives; beyond, 3 and a second
  /// layer of 2 halfway to the middle.
  std::optional<Index> parts = {};
  std::optional<Index> population = {}; ///< unset: the directions, filled up to a multiple of four
  VariationChoice variation{.crossover = 1, .crossover_index = 30, .mutation = {}, .mutation_index = 20}; ///< table II

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
