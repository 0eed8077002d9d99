#pragma once

#include "tanzen/methods/population/population.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Differential evolution whose weight and crossover learn from the trials that succeeded, with an archive of what they
/// replaced, and a population that shrinks linearly over the evaluations the run may take (Tanabe and Fukunaga, 2013,
/// algorithm 1, for the history; 2014, algorithm 1 and equation 10, for the reduction; mutation with archive: Zhang and
/// Sanderson, 2009, equation 7). A run without a limit shrinks over 10,000 evaluations for each variable.
///
/// Cost: the population's size in values an iteration. Memory: the population twice, and the archive.
struct AdaptiveDifferentialEvolution {
  std::optional<Index> population = {}; ///< at the beginning; unset: 18 n, at least 30
  Index least_population = 4;           ///< at the end
  Index history = 6;                    ///< memory of successful weights and crossovers
  double greed = 0.11;                  ///< part of the population that counts as best
  double archive = 2.6;                 ///< size of the archive, in populations
  ConstraintRules constraints;
  double collapse = 1e-12; ///< done when the population is narrower than this, relative to 1 + |x|

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
