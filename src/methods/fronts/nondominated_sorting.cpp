#include "tanzen/methods/fronts/nondominated_sorting.hpp"

#include "tanzen/numeric/sampling.hpp"

#include "front_variation.hpp"

#include <algorithm>

namespace tanzen::methods {

MethodCard NondominatedSorting::card() {
  return {.title = "elitist nondominated sorting",
          .family = "fronts",
          .source = "Deb, Pratap, Agarwal and Meyarivan, 2002",
          .limits = "no child lies outside the bounds; constraints by feasibility first",
          .summary = "Two or three objectives at once: a population that spreads along their front.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true, .fronts = true},
          .version = 2};
}

void NondominatedSorting::settings(Settings& list) {
  list.add("population", population).at_least(4).at_most(1e5).means("members");
  variation.settings(list);
}

Search NondominatedSorting::search(Evaluator& evaluate, Start start) const {
  RandomStream& random = start.random;
  const Vector widths = evaluate.problem().sampling_box().width();
  const BoundedVariation vary = variation_of(variation, evaluate.bounds(), widths);
  FrontMembers parents = first_members(evaluate, start, population);
  FrontStand stand;
  for (;;) {
    // Ranks and room among the parents themselves decide who wins; everyone fights once against each of two others.
    const std::vector<Index> among = crowded_order(parents, evaluate.feasibility());
    std::vector<Index> place(among.size());
    for (std::size_t k = 0; k < place.size(); ++k) place[static_cast<std::size_t>(among[k])] = static_cast<Index>(k);
    std::vector<Index> drawn;
    const auto draw = [&] {
      if (drawn.empty()) drawn = random_order(population, random);
      const Index k = drawn.back();
      drawn.pop_back();
      return k;
    };
    const auto winner = [&] {
      const Index a = draw(), b = draw();
      return place[static_cast<std::size_t>(b)] < place[static_cast<std::size_t>(a)] ? b : a;
    };
    FrontMembers all = parents;
    all.append(visited(evaluate, children_of(parents, population, vary, random, winner)));
    std::vector<Index> order = crowded_order(all, evaluate.feasibility());
    order.resize(static_cast<std::size_t>(population));
    parents = all.some(order);
    co_yield stand.iteration(evaluate, parents);
  }
}

} // namespace tanzen::methods
