#pragma once

#include "tanzen/methods/fronts/variation.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// An elitist genetic algorithm for several objectives: members are ranked by nondominated sorting, and within a rank
/// by how crowded they are; a member that breaks constraints less comes before one that breaks them more (Deb, Pratap,
/// Agarwal and Meyarivan, 2002, sections III and VI). Crossover and mutation are those for variables with bounds.
///
/// Cost: `population` evaluations and so many squared comparisons an iteration. Memory: two populations.
struct NondominatedSorting {
  Index population = 100;
  VariationChoice variation; ///< as in section V of the paper

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
