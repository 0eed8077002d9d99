#pragma once

#include "tanzen/methods/fronts/variation.hpp"

#include "front_members.hpp"

#include "../population/bounded_variation.hpp"

namespace tanzen::methods {

/// What was chosen, at work on a problem. `widths` are those of its region; borrowed, like the bounds.
[[nodiscard]] inline BoundedVariation variation_of(const VariationChoice& choice, const Bounds& bounds,
                                                   const Vector& widths) {
  return {bounds,
          widths,
          choice.crossover,
          choice.crossover_index,
          choice.mutation.value_or(1 / static_cast<double>(widths.size())),
          choice.mutation_index};
}

/// As many children as there are members, from pairs of parents that `winner()` chooses.
template <class Winner>
[[nodiscard]] Matrix children_of(const FrontMembers& parents, Index count, const BoundedVariation& vary,
                                 RandomStream& random, const Winner& winner) {
  Matrix children(parents.points.rows(), count);
  Vector first, second;
  for (Index k = 0; k < count; k += 2) {
    first = parents.points.col(winner());
    second = parents.points.col(winner());
    vary.cross(first, second, random);
    vary.mutate(first, random);
    children.col(k) = first;
    if (k + 1 == count) break;
    vary.mutate(second, random);
    children.col(k + 1) = second;
  }
  return children;
}

} // namespace tanzen::methods
