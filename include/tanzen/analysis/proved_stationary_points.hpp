#pragma once

#include "tanzen/analysis/point_kind.hpp"
#include "tanzen/problem/problem.hpp"

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace tanzen {

/// A stationary point that is proved to exist, and to be the only one in its box.
struct ProvedStationaryPoint {
  Vector lower = {}, upper = {};                        ///< of its box; the point is near the middle
  double least_value = 0, most_value = 0;               ///< its value lies between, in the problem's sense
  Vector least_multipliers = {}, most_multipliers = {}; ///< by constraint, as those of `StationaryPoint`
  PointKind kind = PointKind::degenerate;               ///< `degenerate` where it is not proved to be another one

  [[nodiscard]] Vector point() const { return 0.5 * (lower + upper); }
};

struct ProvedStationaryOptions {
  std::function<bool()> should_stop = {}; ///< asked now and then; unset: it goes on until it is done or gives up
};

struct ProvedStationaryPoints {
  std::vector<ProvedStationaryPoint> points = {}; ///< within the region, by value
  Index at_edge = 0;     ///< of those, boxes that reach over the region's edge: the point may lie beyond it
  bool complete = false; ///< that there are no others in the region is proved
  Index undecided = 0;   ///< boxes of which nothing is proved
  std::int64_t looked_at = 0;
  std::string how = {}; ///< in a sentence, what is known
};

/// All stationary points of a formula in its region, with a proof (interval Newton on the equations of Fritz John: the
/// gradients of the function and of the constraints, weighted so that the sum of their squares is one, add up to zero;
/// Hansen and Walster, 2004, chapters 11 and 13). A point where the constraints' gradients alone do so is none, and
/// keeps the list from being proved complete. Kinds are those of the Hessian of the Lagrangian on the tangent space, by
/// the inertia of the bordered matrix (Gould, 1985).
///
/// Where the function has kinks or jumps, or no values, nothing is proved unless slopes exclude a stationary point.
/// Throws ProblemError as `stationary_points` does, and where the problem is no formula.
[[nodiscard]] ProvedStationaryPoints prove_stationary_points(const Problem& problem,
                                                             const ProvedStationaryOptions& options = {});

} // namespace tanzen
