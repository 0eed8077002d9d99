#pragma once

#include "tanzen/analysis/stationary_points.hpp"
#include "tanzen/figure/figure.hpp"

namespace tanzen {

/// Stationary points of two variables by their kinds on the contours, and under one equality constraint along its
/// curve: the value against the length walked on it, where they stand still. Of one variable on the function's curve.
/// Cost: values on 300 squared points, which count in no run.
///
/// Throws ProblemError for more variables.
[[nodiscard]] Figure stationary_figure(const Problem& problem, const StationaryPoints& found);

} // namespace tanzen
