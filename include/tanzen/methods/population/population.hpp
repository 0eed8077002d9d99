#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/iteration.hpp"
#include "tanzen/search/search.hpp"
#include "tanzen/search/settings.hpp"

namespace tanzen::methods {

/// Members with their values, and what every population tells of itself.
class Population {
 public:
  /// A Latin hypercube sample of the sampling box, with the start as its first member. Cost: count - 1 values.
  Population(Evaluator& evaluate, const Start& start, Index count);

  Matrix points; ///< one member a column
  Vector values;

  [[nodiscard]] Index size() const { return points.cols(); }
  [[nodiscard]] Index best() const;
  /// Keeps the members named, in that order. Allocates where they get fewer.
  void keep(const std::vector<Index>& members);

  /// Where the population stands: its best member, `diversity`, the mean distance by coordinate from the centroid, and
  /// the mean of the values there are. Finished where all members have one value or the population is narrower than
  /// `collapse`, relative to 1 + |x|. Borrows the population.
  [[nodiscard]] Iteration iteration(double collapse);

 private:
  Vector best_point_;
  Vector centroid_;
};

/// The setting `collapse`, as every population has it.
void add_collapse(Settings& list, double& collapse);

/// Places in the order of their values, best first; equal ones, and those without a value, as they stand. Allocates
/// nothing once `order` has its size.
void sort_by_value(const Vector& values, std::vector<Index>& order);

/// A different member than all of `taken`, uniformly; requires that there is one.
[[nodiscard]] Index another(Index count, std::span<const Index> taken, RandomStream& random);

} // namespace tanzen::methods
