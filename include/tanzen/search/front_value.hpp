#pragma once

#include "tanzen/problem/problem.hpp"
#include "tanzen/search/incumbent.hpp"

#include <optional>

namespace tanzen {

/// What the volume of a front is measured towards: in each objective, to be minimized, the highest of 101 points of the
/// region that are keyed by the problem alone, so that all runs on it are measured alike. None where the objectives are
/// only called, and a look at them may be dear. Cost: 101 values, which count nowhere.
[[nodiscard]] std::optional<Vector> front_reference(const Problem& problem);

/// The volume that a front (objectives to be minimized) covers towards the reference; NaN without one.
[[nodiscard]] double front_value(const Problem& problem, const std::vector<FrontPoint>& front);

} // namespace tanzen
