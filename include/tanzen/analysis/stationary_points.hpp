#pragma once

#include "tanzen/analysis/point_kind.hpp"
#include "tanzen/problem/problem.hpp"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace tanzen {

/// A point where the gradient vanishes, of the Lagrangian under equality constraints.
struct StationaryPoint {
  Vector point = {};
  double value = 0;        ///< in the problem's sense
  Vector multipliers = {}; ///< by constraint: what one more unit of its limit changes the value by
  Curvature curvature;
};

struct StationaryOptions {
  /// Starts of searches: the problem's own and Sobol points of its region. Twice as many, up to sixteen times, as long
  /// as the second half of them finds a point that the first half did not. Unset: 60, and 20 for each variable.
  std::optional<Index> starts = {};
  std::uint64_t seed = 1;
};

struct StationaryPoints {
  std::vector<StationaryPoint> points = {}; ///< within the region, strictly within the bounds; by value
  Index starts = 0;                         ///< how many were used in the end
  Index last_new = 0;                       ///< the number of the start that found the last new point
  Index outside = 0;                        ///< points found outside the region or on its bounds, which are not listed
  bool complete = false;                    ///< whether it is known that there are no others
  std::string how = {};                     ///< in a sentence, what is known of that
};

/// All stationary points that searches from many starts find: Newton's method on the equations of the Lagrangian, each
/// point found being divided out of them so that no later search comes to it again (deflation, with power 2 and shift
/// 1: Farrell, Birkisson and Funke, 2015), until a search from that start finds none. Points on bounds
/// are not looked for. Cost: a Jacobian and a Hessian for each Newton step, some dozens of steps for each search.
///
/// Throws ProblemError without exact second derivatives, for inequality constraints, several objectives, or more
/// equality constraints than variables.
[[nodiscard]] StationaryPoints stationary_points(const Problem& problem, const StationaryOptions& options = {});

/// The Lagrangian and the equations whose solutions they are, as formulas, a line each; its multipliers are named m1,
/// m2. Throws ProblemError where the problem is no expression.
[[nodiscard]] std::vector<std::string> stationary_equations(const Problem& problem);

} // namespace tanzen
