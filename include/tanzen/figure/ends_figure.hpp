#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/search/outcome.hpp"

#include <vector>

namespace tanzen {

/// Where each method's runs ended: for two variables on one landscape, a colour a method; and beside it, for each
/// method, what its runs reached, from the best to the worst. `outcomes[m]` are the runs of one method, all on one
/// problem.
[[nodiscard]] Figure ends_figure(const Problem& problem, const std::vector<std::vector<Outcome>>& outcomes);

/// The local minima that a run listed: for one or two variables marked on the curve or landscape, and beside it their
/// values with the share of local searches that led to each.
[[nodiscard]] Figure minima_figure(const Problem& problem, const Outcome& outcome);

} // namespace tanzen
