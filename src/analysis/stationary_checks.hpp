#pragma once

#include "tanzen/problem/problem.hpp"

namespace tanzen {

/// Throws ProblemError where stationary points of the problem are not looked for.
void check_for_stationary_points(const Problem& problem);

} // namespace tanzen
