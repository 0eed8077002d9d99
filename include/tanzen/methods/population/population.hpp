#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/iteration.hpp"
#include "tanzen/search/search.hpp"
#include "tanzen/search/settings.hpp"
#include "tanzen/search/standing.hpp"

#include <algorithm>
#include <cstddef>
#include <numeric>
#include <span>
#include <vector>

namespace tanzen::methods {

/// Points with what they are ranked by.
struct Members {
  Matrix points = {}; ///< one member a column
  Vector values = {};
  Vector violations = {}; ///< the largest of each member's rows; 0 without constraints

  [[nodiscard]] Index size() const { return points.cols(); }
  [[nodiscard]] Standing operator[](Index k) const { return {values[k], violations[k]}; }
  /// Fills values and violations of all points, as one batch.
  void evaluate_by(Evaluator& evaluate);
  /// Member `k` becomes member `other` of others.
  void take(Index k, const Members& others, Index other);
};

/// How a population keeps constraints, as a setting: feasible members before all others (Deb, 2000), or those up to a
/// level of violation that falls to the feasibility tolerance (Takahama and Sakai, 2006, section 2.3): it begins at the
/// violation that a fifth of the first population keeps, and has fallen after 0.8 of the evaluations that the run may
/// take, or after 8,000 for each variable; sooner where the population narrows sooner.
struct ConstraintRules {
  enum class Rule { feasibility, falling_level };
  Rule rule = Rule::falling_level;

  void settings(Settings& list);
};

/// The evaluations that a method plans with: those the run may still take, or 10,000 for each variable.
[[nodiscard]] double planned_evaluations(const Evaluator& evaluate);

/// Members with the level of violation that counts as kept, and what every population tells of itself.
class Population : public Members {
 public:
  /// A Latin hypercube sample of the sampling box, with the start as its first member. Cost: count - 1 values.
  Population(Evaluator& evaluate, const Start& start, Index count, const ConstraintRules& rules = {});

  [[nodiscard]] Index best() const;
  /// Whether `candidate` ranks before `present`, by the level that counts as kept; below, before it or as high.
  [[nodiscard]] bool is_better(const Standing& candidate, const Standing& present) const {
    return candidate.is_better_than(present, level_);
  }
  [[nodiscard]] bool is_no_worse(const Standing& candidate, const Standing& present) const {
    return !is_better(present, candidate);
  }
  /// Places in the order of their ranks, best first; equal ones, and those without a value, as they stand. Allocates
  /// nothing once `order` has its size.
  void sort(std::vector<Index>& order) const;
  /// Keeps the members named, in that order. Allocates where they get fewer.
  void keep(const std::vector<Index>& members);
  /// Lets the level fall as far as it should have by now: once an iteration.
  void lower_level(const Evaluator& evaluate);
  [[nodiscard]] double level() const { return level_; }

  /// Where the population stands: its best member, `diversity`, the mean distance by coordinate from the centroid, the
  /// mean of the values there are, and the level where it is falling. Finished where all members have one value or the
  /// population is narrower than `collapse`, relative to each variable's size. Borrows the population.
  [[nodiscard]] Iteration iteration(double collapse);

 private:
  double diversity();
  [[nodiscard]] bool is_feasible(Index k) const { return violations[k] <= tolerance_; }

  double tolerance_;
  double first_level_ = 0, first_diversity_ = 0, level_;
  double begun_ = 0, falls_over_ = 0; ///< in evaluations
  const Problem* problem_;
  Vector best_point_;
  Vector centroid_;
  Vector deviations_; ///< mean distances from the centroid, by coordinate
};

/// The setting `collapse`, as every population has it.
void add_collapse(Settings& list, double& collapse);

/// The places from 0 in the order of `before(a, b)`; those of which neither is before the other, as they stand.
template <class Before>
void sort_places(Index count, std::vector<Index>& order, const Before& before) {
  order.resize(static_cast<std::size_t>(count));
  std::iota(order.begin(), order.end(), Index{0});
  std::sort(order.begin(), order.end(), [&](Index a, Index b) { return before(a, b) || (!before(b, a) && a < b); });
}

/// Places in the order of their values, best first; equal ones, and those without a value, as they stand. Allocates
/// nothing once `order` has its size.
void sort_by_value(const Vector& values, std::vector<Index>& order);

/// A different member than all of `taken`, uniformly; requires that there is one.
[[nodiscard]] Index another(Index count, std::span<const Index> taken, RandomStream& random);

} // namespace tanzen::methods
