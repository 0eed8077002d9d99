#pragma once

#include "tanzen/analysis/fit_statistics.hpp"
#include "tanzen/analysis/fitting.hpp"

#include <string>
#include <vector>

namespace tanzen::cli {

/// A prediction, and where: as it was typed.
struct AtPoint {
  std::string where;
  std::string what; ///< the model's left side
  Prediction prediction;
};

/// What a person reads of a fit; `intervals` is how they were found.
[[nodiscard]] std::string fit_text(const Fit& made, const FitStatistics& statistics,
                                   const std::vector<AtPoint>& predictions, std::string_view intervals,
                                   std::size_t width);

/// The same as one object.
[[nodiscard]] std::string fit_json(const Fit& made, const FitStatistics& statistics,
                                   const std::vector<AtPoint>& predictions, std::string_view intervals);

} // namespace tanzen::cli
