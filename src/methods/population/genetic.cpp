#include "tanzen/methods/population/genetic.hpp"

#include "tanzen/methods/population/population.hpp"

#include "bounded_variation.hpp"

#include <algorithm>

namespace tanzen::methods {
MethodCard Genetic::card() {
  return {.title = "real-coded genetic algorithm",
          .family = "population",
          .source = "Deb and Agrawal, 1995; Deb and Goyal, 1996; elitism: De Jong, 1975",
          .limits = "crossover and mutation are those for variables with bounds: no child lies outside",
          .summary =
              "Rugged functions where a good answer is enough; to be compared with differential evolution, which "
              "is mostly more exact.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void Genetic::settings(Settings& list) {
  list.add("population", population).at_least(4).at_most(1e6).means("members");
  list.add("elite", elite).at_least(0).at_most(1e6).means("best members that live on unchanged");
  list.add("tournament", tournament).between(1, 100).means("members of whom the best becomes a parent");
  list.add("crossover", crossover).between(0, 1).means("chance that two parents are crossed");
  list.add("crossover-index", crossover_index)
      .at_least(0)
      .at_most(1000)
      .means("the larger, the nearer children are to parents");
  list.add("mutation", mutation).between(0, 1).unset_means("1 / n").means("chance that a coordinate is changed");
  list.add("mutation-index", mutation_index).at_least(0).at_most(1000).means("the larger, the smaller the changes");
  add_collapse(list, collapse);
}

Search Genetic::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), count = population, kept = std::min(elite, count - 1);
  const Bounds& bounds = evaluate.bounds();
  const Vector widths = evaluate.problem().sampling_box().width();
  const double chance = mutation.value_or(1 / static_cast<double>(n));
  RandomStream& random = start.random;
  Population members(evaluate, start, count);
  Matrix children(n, count - kept), elders(n, kept);
  Vector values(count - kept), elder_values(kept), first(n), second(n);
  std::vector<Index> order;
  const auto winner = [&] {
    Index best = random.below(count);
    for (Index k = 1; k < tournament; ++k) {
      const Index other = random.below(count);
      if (members.values[other] < members.values[best]) best = other;
    }
    return best;
  };
  const BoundedVariation vary{bounds, widths, crossover, crossover_index, chance, mutation_index};
  for (;;) {
    for (Index k = 0; k < children.cols(); k += 2) {
      first = members.points.col(winner());
      second = members.points.col(winner());
      vary.cross(first, second, random);
      vary.mutate(first, random);
      children.col(k) = first;
      if (k + 1 == children.cols()) break;
      vary.mutate(second, random);
      children.col(k + 1) = second;
    }
    evaluate.values(children, values);
    sort_by_value(members.values, order);
    for (Index k = 0; k < kept; ++k) {
      elders.col(k) = members.points.col(order[static_cast<std::size_t>(k)]);
      elder_values[k] = members.values[order[static_cast<std::size_t>(k)]];
    }
    members.points << elders, children;
    members.values << elder_values, values;
    co_yield members.iteration(collapse);
  }
}

} // namespace tanzen::methods
