#pragma once

#include "tanzen/search/outcome.hpp"

#include <string>
#include <vector>

namespace tanzen {

/// What went poorly with the constraints of a run that is over, and what to try: a start that breaks them, limits that
/// cannot be kept together, multipliers that are not the only ones or grow without end, rows of very different
/// steepness. Cost: one Jacobian where it has derivatives; it counts in no run.
[[nodiscard]] std::vector<std::string> constraint_hints(const Problem& problem, const Outcome& outcome);

} // namespace tanzen
