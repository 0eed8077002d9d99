#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"

#include <optional>
#include <utility>
#include <vector>

namespace tanzen {

struct LandscapeOptions {
  /// The point that a plane goes through where there are more than two variables; unset: a global minimum, the start,
  /// or the region's centre.
  std::optional<Vector> through = std::nullopt;
  /// The two variables of the plane; unset: all pairs up to four variables, otherwise the first two.
  std::optional<std::pair<Index, Index>> plane = std::nullopt;
  /// Points along each variable of a single plane.
  Index resolution = 400;
  /// The surface in perspective instead of contours.
  bool surface = false;
};

/// What a problem looks like over its region: a curve, filled contours with the known minima, a surface in perspective,
/// or planes through a point. Cost: a thousand values for a curve, some ninety thousand a plane; they count in no run.
[[nodiscard]] Figure landscape_figure(const Problem& problem, const LandscapeOptions& options = {});

/// The function along a straight line from `from` to `to`, with the tangent that its gradient gives at the start.
[[nodiscard]] Figure slice_figure(const Problem& problem, const Vector& from, const Vector& to);

} // namespace tanzen
