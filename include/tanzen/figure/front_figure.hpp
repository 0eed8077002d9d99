#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/search/outcome.hpp"

#include <vector>

namespace tanzen {

/// The front of a run in objective space, each objective in its own sense, over the true front where that is known,
/// with its knee and its ends; beside it what it covered against the evaluations. Two objectives are a plane, three a
/// space, more are lines over the objectives. Requires several objectives.
[[nodiscard]] Figure front_figure(const Problem& problem, const Outcome& outcome);

/// How a population came to its front: its members in objective space at a few iterations, the later the darker, over
/// the true front where that is known. Likewise.
[[nodiscard]] Figure front_growth_figure(const Problem& problem, const Outcome& outcome,
                                         const std::vector<PopulationSnapshot>& snapshots);

} // namespace tanzen
