#include "tanzen/methods/population/genetic.hpp"

#include "tanzen/methods/population/population.hpp"

#include "bounded_variation.hpp"

#include <algorithm>

namespace tanzen::methods {
MethodCard Genetic::card() {
  return {.title = "real-coded genetic algorithm",
          .family = "population",
          .source = "Deb and Agrawal, 1995; Deb and Goyal, 1996; elitism: De Jong, 1975; constraints: Deb, 2000, "
                    "Takahama and Sakai, 2006",
          .limits = "crossover and mutation are those for variables with bounds: no child lies outside",
          .summary =
              "Rugged functions where a good answer is enough; to be compared with differential evolution, which "
              "is mostly more exact.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
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
  constraints.settings(list);
  add_collapse(list, collapse);
}

Search Genetic::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), count = population, kept = std::min(elite, count - 1);
  const Bounds& bounds = evaluate.bounds();
  const Vector widths = evaluate.problem().sampling_box().width();
  const double chance = mutation.value_or(1 / static_cast<double>(n));
  RandomStream& random = start.random;
  Population members(evaluate, start, count, constraints);
  Members before = members, children{.points = Matrix(n, count - kept)};
  Vector first(n), second(n);
  std::vector<Index> order;
  const auto winner = [&] {
    Index best = random.below(count);
    for (Index k = 1; k < tournament; ++k) {
      const Index other = random.below(count);
      if (members.is_better(members[other], members[best])) best = other;
    }
    return best;
  };
  const BoundedVariation vary{bounds, widths, crossover, crossover_index, chance, mutation_index};
  for (;;) {
    for (Index k = 0; k < children.size(); k += 2) {
      first = members.points.col(winner());
      second = members.points.col(winner());
      vary.cross(first, second, random);
      vary.mutate(first, random);
      children.points.col(k) = first;
      if (k + 1 == children.size()) break;
      vary.mutate(second, random);
      children.points.col(k + 1) = second;
    }
    children.evaluate_by(evaluate);
    members.lower_level(evaluate);
    members.sort(order);
    static_cast<Members&>(before) = members;
    for (Index k = 0; k < kept; ++k) members.take(k, before, order[static_cast<std::size_t>(k)]);
    for (Index k = kept; k < count; ++k) members.take(k, children, k - kept);
    co_yield members.iteration(collapse);
  }
}

} // namespace tanzen::methods
