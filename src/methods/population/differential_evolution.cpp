#include "tanzen/methods/population/differential_evolution.hpp"

#include "tanzen/methods/population/population.hpp"

#include "trial_vector.hpp"

#include <algorithm>
#include <array>

namespace tanzen::methods {
namespace {

using Mutation = DifferentialEvolution::Mutation;

Index others_needed(Mutation mutation) {
  switch (mutation) {
  case Mutation::rand_1: return 3;
  case Mutation::best_1:
  case Mutation::current_to_best_1: return 2;
  case Mutation::best_2: return 4;
  case Mutation::rand_2: return 5;
  case Mutation::current_to_rand_1: break;
  }
  return 3;
}

/// Members that differ from the target and from each other.
class Others {
 public:
  Others(Index target, Index needed, Index count, RandomStream& random) {
    chosen_[0] = target;
    for (Index k = 1; k <= needed; ++k) {
      const auto place = static_cast<std::size_t>(k);
      chosen_[place] = another(count, std::span(chosen_.data(), place), random);
    }
  }
  [[nodiscard]] Index operator[](std::size_t k) const { return chosen_[k + 1]; }

 private:
  std::array<Index, 6> chosen_{};
};

/// The mutant's coordinate j (Price, Storn and Lampinen, 2005, section 2.6).
class Mutant {
 public:
  Mutant(Mutation mutation, const Population& population, Index target, Index best, double f, const Others& others)
      : mutation_(mutation), points_(population.points), target_(target), best_(best), f_(f), others_(others) {}

  double operator()(Index j) const {
    switch (mutation_) {
    case Mutation::rand_1: return at(j, 0) + difference(j, 1);
    case Mutation::best_1: return points_(j, best_) + difference(j, 0);
    case Mutation::rand_2: return at(j, 0) + difference(j, 1) + difference(j, 3);
    case Mutation::best_2: return points_(j, best_) + difference(j, 0) + difference(j, 2);
    case Mutation::current_to_best_1: return own(j) + f_ * (points_(j, best_) - own(j)) + difference(j, 0);
    case Mutation::current_to_rand_1: break;
    }
    return own(j) + f_ * (at(j, 0) - own(j)) + difference(j, 1);
  }

 private:
  [[nodiscard]] double own(Index j) const { return points_(j, target_); }
  [[nodiscard]] double at(Index j, std::size_t k) const { return points_(j, others_[k]); }
  [[nodiscard]] double difference(Index j, std::size_t k) const { return f_ * (at(j, k) - at(j, k + 1)); }

  Mutation mutation_;
  const Matrix& points_;
  Index target_, best_;
  double f_;
  const Others& others_;
};

/// The trial takes an unbroken run of the mutant's coordinates, as long as chance allows (the same, section 2.6.3).
template <class MutantCoordinate>
void cross_exponentially(const MutantCoordinate& mutant, double crossover, RandomStream& random, auto&& trial) {
  const Index n = trial.size();
  Index j = random.below(n);
  for (Index k = 0; k < n; ++k, j = (j + 1) % n) {
    trial[j] = mutant(j);
    if (random.uniform() >= crossover) break;
  }
}

} // namespace

MethodCard DifferentialEvolution::card() {
  return {.title = "differential evolution, by default rand/1/bin with dither",
          .family = "population",
          .source = "Storn and Price, 1997; dither and bounce-back: Price, Storn and Lampinen, 2005; constraints: Deb, "
                    "2000, Takahama and Sakai, 2006",
          .limits = "a coordinate outside goes halfway from its parent to the bound",
          .summary = "Rugged functions with up to some tens of variables, no derivatives, no good start known.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void DifferentialEvolution::settings(Settings& list) {
  list.add("mutation", mutation,
           {{"rand-1", Mutation::rand_1},
            {"best-1", Mutation::best_1},
            {"rand-2", Mutation::rand_2},
            {"best-2", Mutation::best_2},
            {"current-to-best-1", Mutation::current_to_best_1},
            {"current-to-rand-1", Mutation::current_to_rand_1}})
      .means("the base of a mutant, and how many differences are added to it");
  list.add("crossing", crossing, {{"binomial", Crossing::binomial}, {"exponential", Crossing::exponential}})
      .means("which coordinates come from the mutant: each by chance, or an unbroken run");
  list.add("population", population)
      .at_least(6)
      .at_most(1e6)
      .unset_means("10 for each variable, within 50 and 100")
      .means("members");
  list.add("weight", weight).positive().at_most(2).means("mean weight of the difference of two members (F)");
  list.add("dither", dither).between(0, 1).means("width of the interval around the weight that each trial draws from");
  list.add("crossover", crossover).between(0, 1).means("chance that a coordinate comes from the mutant (CR)");
  constraints.settings(list);
  add_collapse(list, collapse);
}

Search DifferentialEvolution::search(Evaluator& evaluate, Start start) const {
  const Index count = population.value_or(std::clamp<Index>(10 * start.point.size(), 50, 100));
  RandomStream& random = start.random;
  Population members(evaluate, start, count, constraints);
  Members trials = members;
  // Of current-to-rand the mutant is the trial: a line between members, whatever the coordinates (section 2.6.2).
  const double chance = mutation == Mutation::current_to_rand_1 ? 1 : crossover;
  for (;;) {
    const Index best = members.best();
    trials.points = members.points;
    for (Index i = 0; i < count; ++i) {
      const Others others(i, others_needed(mutation), count, random);
      const double f = weight + dither * (random.uniform() - 0.5);
      const Mutant mutant(mutation, members, i, best, f, others);
      if (crossing == Crossing::binomial)
        cross_binomially(mutant, chance, random, trials.points.col(i));
      else
        cross_exponentially(mutant, chance, random, trials.points.col(i));
      bounce_back(evaluate.bounds(), members.points.col(i), trials.points.col(i));
    }
    trials.evaluate_by(evaluate);
    for (Index i = 0; i < count; ++i) {
      if (members.is_no_worse(trials[i], members[i])) members.take(i, trials, i);
    }
    members.lower_level(evaluate);
    co_yield members.iteration(collapse);
  }
}

} // namespace tanzen::methods
