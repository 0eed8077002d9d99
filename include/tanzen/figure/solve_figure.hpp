#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/search/outcome.hpp"

namespace tanzen {

/// The picture that a run needs. One variable: the curve with the iterates on it, and the value against the
/// iterations; two: filled contours with the path, and the value; more: value, gradient or step norm, and variables.
/// The first two need a trace with points.
[[nodiscard]] Figure solve_figure(const Problem& problem, const Outcome& outcome);

/// The box that a picture of a run on one or two variables shows: the problem's region, or where it has none the
/// surroundings of the path; widened for a path that leaves it, within limits.
[[nodiscard]] Box picture_box(const Problem& problem, const Trace& trace);

} // namespace tanzen
