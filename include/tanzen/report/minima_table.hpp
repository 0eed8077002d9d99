#pragma once

#include "tanzen/report/table.hpp"
#include "tanzen/search/outcome.hpp"

#include <cstddef>
#include <string>

namespace tanzen {

/// The local minima that a run listed, best first: value, the share of local searches that led to it, what curvature
/// says of it, whether it is one of the known ones, and its point.
[[nodiscard]] std::string minima_table(const Problem& problem, const Outcome& outcome, std::size_t width = usual_width);

} // namespace tanzen
