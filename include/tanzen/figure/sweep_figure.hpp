#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/study/sweep.hpp"

#include <vector>

namespace tanzen {

/// One setting varied: for two variables a panel a value with the path on the landscape, same axes and colours, and
/// below them the values of all against the iterations; otherwise that alone. Traces need points for the paths.
[[nodiscard]] Figure sweep_figure(const Problem& problem, const VariedSetting& varied,
                                  const std::vector<Outcome>& outcomes);

/// Several methods on one problem: for two variables their paths on one landscape, each in its colour, and beside them
/// the values of all against the evaluations; evaluation by evaluation, where it moves. Traces need points for the
/// paths. `surface`: the landscape in perspective, turned so that as much as can be of the paths is seen.
[[nodiscard]] Figure paths_figure(const Problem& problem, const std::vector<Outcome>& outcomes, bool surface = false);

/// Two settings varied: a map of the gap reached, or of the value where the best is not known.
[[nodiscard]] Figure sweep_map(const Problem& problem, const Method& method, const VariedSetting& first,
                               const VariedSetting& second, const std::vector<SweepCell>& cells);

/// Starts on a grid of two variables: which end each leads to, and after how many iterations. The starts' places are
/// `columns` abscissas, the first varying fastest.
[[nodiscard]] Figure basin_map(const Problem& problem, const Method& method, const Matrix& starts, Index columns,
                               const std::vector<SweepCell>& cells);

} // namespace tanzen
