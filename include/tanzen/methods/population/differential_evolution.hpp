#pragma once

#include "tanzen/methods/population/population.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Differential evolution with the classical strategies (Storn and Price, 1997; Price, Storn and Lampinen, 2005,
/// sections 2.1 and 2.6), and with the difference weight drawn anew for each trial ("dither"; the same, section 2.5.2).
/// A trial coordinate outside the bounds goes halfway from its target to the bound ("bounce-back", the same,
/// section 4.3.1).
///
/// Weights and crossover, by medians of values over 15 starts to a gap of 1e-6, of (F, dither, CR) = (0.7, 0.5, 0.5),
/// (0.7, 1, 0.8) and (0.6, 0.5, 0.9): rosenbrock:dim=5 45275, 14718, 10582; rastrigin:dim=5 13090, 20552, 28000; the
/// rotated ellipsoid in 5 variables never, 17163, 9972; griewank:dim=5 15, 5 and 1 of 15 within 60,000; eggholder to
/// 1e-4 within 20,000 from 15, 16 and 9 of 21. sphere:dim=30 to 1e-8: never within 300,000, 103002, 112042.
///
/// Cost: `population` values an iteration. Memory: three populations.
struct DifferentialEvolution {
  /// What a mutant is made of: a base, and one or two differences of members.
  enum class Mutation { rand_1, best_1, rand_2, best_2, current_to_best_1, current_to_rand_1 };
  enum class Crossing { binomial, exponential };

  Mutation mutation = Mutation::rand_1;
  Crossing crossing = Crossing::binomial;
  std::optional<Index> population = {}; ///< unset: 10 n, within 50 and 100
  double weight = 0.7;                  ///< mean of the difference weight F
  double dither = 1;                    ///< width of the interval around `weight` that F is drawn from
  double crossover = 0.8;               ///< chance CR that a coordinate comes from the mutant
  ConstraintRules constraints;
  double collapse = 1e-12; ///< done when the population is narrower than this, relative to each variable's size

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
