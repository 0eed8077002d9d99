#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/iteration.hpp"
#include "tanzen/search/search.hpp"

#include <vector>

namespace tanzen::methods {

/// The members of a population with several objectives: a column each.
struct FrontMembers {
  Matrix points;
  Matrix objectives; ///< to be minimized; where one is missing it is worse than any
  Vector violations;

  [[nodiscard]] Index size() const { return points.cols(); }
  [[nodiscard]] FrontMembers some(const std::vector<Index>& which) const;
  void append(const FrontMembers& others);
  void set(Index k, const FrontMembers& from, Index other);
};

/// Visits points, so many evaluations.
[[nodiscard]] FrontMembers visited(Evaluator& evaluate, const Matrix& points);
/// Visits one of them.
[[nodiscard]] FrontMembers visited(Evaluator& evaluate, const Vector& point);
/// A Latin hypercube of the region, the start in the place of the first member.
[[nodiscard]] FrontMembers first_members(Evaluator& evaluate, const Start& start, Index count);

/// Whether a comes before b as Deb et al. (2002, definition 1) say: feasible before infeasible, less violation before
/// more, and among feasible ones by dominance.
[[nodiscard]] bool comes_before(const FrontMembers& a, Index i, const FrontMembers& b, Index j, double feasibility);

/// Ranks by that: of feasible members by their objectives, of the others behind them by their violation.
[[nodiscard]] std::vector<int> ranks_of(const FrontMembers& members, double feasibility);

/// The crowding distances of Deb et al. (2002, section III.B) among the members of one rank: how far the neighbours in
/// each objective are apart, in parts of its range. Infinite at the ends.
[[nodiscard]] Vector crowding_of(const Matrix& objectives);

/// The members in the order of their ranks, of one rank those with more room first (section III.B).
[[nodiscard]] std::vector<Index> crowded_order(const FrontMembers& members, double feasibility);

/// How a population of several objectives stands: its first member of the front, what the run's front covers as the
/// value (turned, to be minimized), the members with their first objectives, how many of them are nondominated, how
/// many points the run keeps. Borrows all that it is given.
class FrontStand {
 public:
  [[nodiscard]] Iteration iteration(const Evaluator& evaluate, const FrontMembers& members);

 private:
  Vector point_, values_;
};

} // namespace tanzen::methods
