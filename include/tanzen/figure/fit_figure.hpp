#pragma once

#include "tanzen/analysis/fit_statistics.hpp"
#include "tanzen/figure/figure.hpp"

namespace tanzen {

/// A fit: the data with the curve, before (from `start`) and after, its confidence band and that of new observations;
/// where there are several predictors, observed against fitted values. Beside it the residuals against the fitted
/// values and in their order, and the studentized ones against those of a normal distribution. Cost: the model at some
/// hundred places. Requires a problem built from a model.
[[nodiscard]] Figure fit_figure(const Problem& problem, const Vector& start, const FitStatistics& fit);

} // namespace tanzen
