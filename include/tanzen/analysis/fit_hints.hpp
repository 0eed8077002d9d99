#pragma once

#include "tanzen/analysis/fit_statistics.hpp"
#include "tanzen/analysis/fitting.hpp"

#include <string>
#include <vector>

namespace tanzen {

/// What a fit shows beside its numbers, and what to try: directions that the data leave open, fewer rows than
/// parameters, a bound that holds, a start where the model is flat, trials without a value, observations of very
/// different sizes.
[[nodiscard]] std::vector<std::string> fit_hints(const Fit& made, const FitStatistics& statistics);

} // namespace tanzen
