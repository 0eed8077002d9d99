#include "tanzen/methods/fronts/variation.hpp"

namespace tanzen::methods {

void VariationChoice::settings(Settings& list) {
  list.add("crossover", crossover).between(0, 1).means("chance that two parents are crossed");
  list.add("crossover-index", crossover_index).between(0, 1000).means("the larger, the nearer children are to parents");
  list.add("mutation", mutation).between(0, 1).unset_means("1 / n").means("chance that a coordinate is changed");
  list.add("mutation-index", mutation_index).between(0, 1000).means("the larger, the smaller the changes");
}

} // namespace tanzen::methods
