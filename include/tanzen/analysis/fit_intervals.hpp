#pragma once

#include "tanzen/analysis/fitting.hpp"

#include <cstdint>
#include <vector>

namespace tanzen {

/// Ends of an interval; NaN where there is none, infinite or a bound where the data set no end.
struct ParameterInterval {
  double lower = 0;
  double upper = 0;
};

/// Intervals by the profile of the sum of squares, which need no linear model: the values of a parameter for which the
/// sum, least over all others, stays within what chance explains (Bates and Watts, 1988, section 6.1). A side on which
/// it stays so to a bound ends there; one on which it stays so a thousand standard errors away is infinite.
///
/// Cost: some twenty runs a parameter, each from the last one's answer. Throws ProblemError for other losses than
/// squares.
[[nodiscard]] std::vector<ParameterInterval> profile_intervals(const Fit& made, const Method& by,
                                                               double confidence = 0.95);

struct BootstrapOptions {
  Index samples = 999;
  std::uint64_t seed = 1;
  double confidence = 0.95;
};

/// Intervals by drawing residuals anew: data are made from the fitted values and residuals drawn with replacement, made
/// as large as their leverage took from them, and fitted again; the quantiles of (value* - value) / error* give the
/// ends (Davison and Hinkley, 1997, sections 5.2 and 6.2). Requires a model with a bare column on its left.
///
/// Cost: a run a sample, from the answer. The same seed gives the same intervals.
[[nodiscard]] std::vector<ParameterInterval> bootstrap_intervals(const Fit& made, const Method& by,
                                                                 const BootstrapOptions& options = {});

} // namespace tanzen
