#pragma once

#include "tanzen/methods/population/population.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// A real-coded genetic algorithm: tournaments, simulated binary crossover and polynomial mutation, both in the form
/// for variables with bounds (Deb and Agrawal, 1995; Deb and Goyal, 1996), the region serving as
/// bounds where there are none; the best members of a generation live on (elitism; De Jong, 1975).
///
/// Tournaments of 4 and a mutation index of 50 against 2 and 20: within 20,000 values sphere:dim=5 comes to 1e-6 in 21
/// of 21 (0), rastrigin:dim=5 in 21 (0), schwefel:dim=5 in 17 (0).
///
/// Cost: `population` less `elite` values an iteration. Memory: two populations.
struct Genetic {
  Index population = 100;
  Index elite = 2;                     ///< best members that live on
  Index tournament = 4;                ///< members of whom the best becomes a parent
  double crossover = 0.9;              ///< chance that two parents are crossed
  double crossover_index = 15;         ///< large: children near their parents
  std::optional<double> mutation = {}; ///< chance that a coordinate is changed; unset: 1 / n
  double mutation_index = 50;          ///< large: small changes
  ConstraintRules constraints;
  double collapse = 1e-12; ///< done when the population is narrower than this, relative to each variable's size

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
