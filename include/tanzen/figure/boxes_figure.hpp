#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/search/outcome.hpp"

namespace tanzen {

/// How a proof went: beside each other, of two variables, the parts of the region that were thrown away over the
/// contours, in a colour a reason, with the boxes that hold all global minimizers; and the bounds of the value against
/// the boxes looked at.
///
/// Requires the outcome of a `branch-and-bound` that recorded; throws ProblemError where it proved nothing, or the
/// problem has not two variables.
[[nodiscard]] Figure boxes_figure(const Problem& problem, const Outcome& outcome);

} // namespace tanzen
