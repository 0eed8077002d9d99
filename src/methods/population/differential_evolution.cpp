#include "tanzen/methods/population/differential_evolution.hpp"

#include "tanzen/numeric/sampling.hpp"

#include <algorithm>
#include <array>

namespace tanzen::methods {
namespace {

/// Three different members, none of them `target`.
std::array<Index, 3> three_others(Index target, Index count, RandomStream& random) {
  std::array<Index, 3> chosen{};
  for (std::size_t k = 0; k < 3; ++k) {
    Index candidate = 0;
    bool taken = true;
    while (taken) {
      candidate = random.below(count);
      taken = candidate == target || std::find(chosen.begin(), chosen.begin() + static_cast<std::ptrdiff_t>(k),
                                               candidate) != chosen.begin() + static_cast<std::ptrdiff_t>(k);
    }
    chosen[k] = candidate;
  }
  return chosen;
}

/// The mean distance by coordinate from the centroid, the usual measure of a population's diversity.
double diversity(const Matrix& points, Vector& centroid) {
  centroid = points.rowwise().mean();
  return (points.colwise() - centroid).cwiseAbs().mean();
}

} // namespace

MethodCard DifferentialEvolution::card() {
  return {.title = "differential evolution, rand/1/bin with dither",
          .family = "population",
          .source = "Storn and Price, 1997; dither and bounce-back: Price, Storn and Lampinen, 2005",
          .bounds = "a coordinate outside goes halfway from its parent to the bound",
          .summary = "Rugged functions with up to some tens of variables, no derivatives, no good start known.",
          .needs = Derivatives::none};
}

void DifferentialEvolution::settings(Settings& list) {
  list.add("population", population)
      .at_least(4)
      .at_most(1e6)
      .unset_means("10 for each variable, at least 50")
      .means("members");
  list.add("weight", weight).positive().at_most(2).means("mean weight of the difference of two members (F)");
  list.add("dither", dither).between(0, 1).means("width of the interval around the weight that each trial draws from");
  list.add("crossover", crossover).between(0, 1).means("chance that a coordinate comes from the mutant (CR)");
  list.add("collapse", collapse)
      .at_least(0)
      .means("done when the population is narrower than this, relative to 1 + |x|");
}

Search DifferentialEvolution::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Index count = population.value_or(std::max<Index>(50, 10 * n));
  const Bounds& bounds = evaluate.bounds();
  RandomStream& random = start.random;

  Matrix points = latin_hypercube_points(evaluate.problem().sampling_box(), count, random.child({"population"}));
  points.col(0) = start.point;
  Vector values(count), trial(n), best(n), centroid(n);
  values[0] = start.value;
  for (Index i = 1; i < count; ++i) {
    trial = points.col(i);
    values[i] = evaluate(trial);
  }
  Matrix next_points = points;
  Vector next_values = values;

  for (;;) {
    for (Index i = 0; i < count; ++i) {
      const auto [a, b, c] = three_others(i, count, random);
      const double f = weight + dither * (random.uniform() - 0.5);
      const Index always = random.below(n); // one coordinate comes from the mutant in any case
      for (Index j = 0; j < n; ++j) {
        const bool is_mutated = random.uniform() < crossover || j == always;
        double& coordinate = trial[j];
        coordinate = is_mutated ? points(j, a) + f * (points(j, b) - points(j, c)) : points(j, i);
        if (coordinate < bounds.lower()[j]) coordinate = 0.5 * (points(j, i) + bounds.lower()[j]);
        if (coordinate > bounds.upper()[j]) coordinate = 0.5 * (points(j, i) + bounds.upper()[j]);
      }
      const double value = evaluate(trial);
      const bool is_better = value <= values[i];
      next_values[i] = is_better ? value : values[i];
      if (is_better)
        next_points.col(i) = trial;
      else
        next_points.col(i) = points.col(i);
    }
    points.swap(next_points);
    values.swap(next_values);

    Index best_member = 0;
    const double best_value = values.minCoeff(&best_member);
    best = points.col(best_member);
    const double width = diversity(points, centroid);
    Iteration now(best, best_value);
    now.population(points, values).column("diversity", width).column("mean", values.mean());
    if (values.maxCoeff() == best_value) now.finished("all members have the same value");
    if (width <= collapse * (1 + best.norm())) now.finished("the population has collapsed to one point");
    co_yield now;
  }
}

} // namespace tanzen::methods
