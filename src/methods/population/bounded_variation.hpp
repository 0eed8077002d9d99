#pragma once

#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/bounds.hpp"

namespace tanzen::methods {

/// Simulated binary crossover and polynomial mutation in the form for variables with bounds (Deb and Agrawal, 1995; Deb
/// and Goyal, 1996): no child lies outside. Where a variable has no bound on a side, children go at most so far beyond
/// their parents as the region is wide. Borrows the bounds and widths.
struct BoundedVariation {
  const Bounds& bounds;
  const Vector& widths; ///< of the region
  double crossover;     ///< chance that two parents are crossed; then each coordinate is by a half
  double crossover_index;
  double mutation; ///< chance that a coordinate is changed
  double mutation_index;

  /// Two parents become two children.
  void cross(Vector& first, Vector& second, RandomStream& random) const;
  void mutate(Vector& child, RandomStream& random) const;
};

} // namespace tanzen::methods
