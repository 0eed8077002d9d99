#pragma once

#include "tanzen/analysis/fit_statistics.hpp"
#include "tanzen/analysis/fitting.hpp"
#include "tanzen/figure/figure.hpp"

namespace tanzen {

/// A fit: the data with the curve, before (from the start) and after, its confidence band and that of new observations;
/// over two predictors the points and the surface; over more, observed against fitted values; one for each equation.
/// Beside it the residuals against the fitted values and in their order, the studentized ones against those of a normal
/// distribution, and of two parameters the landscape of the sum with the run's path, where its trace has points. Cost:
/// the model at some thousand places. Requires a problem built from models.
[[nodiscard]] Figure fit_figure(const Fit& made, const FitStatistics& fit);

} // namespace tanzen
