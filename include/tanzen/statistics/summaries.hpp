#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <utility>
#include <vector>

namespace tanzen {

struct Interval {
  double lower = 0;
  double upper = 0;
};

/// The Wilson score interval of a success rate (Wilson, 1927) at 95 %. Requires 0 <= successes <= trials, trials > 0.
[[nodiscard]] Interval wilson_interval(std::int64_t successes, std::int64_t trials);

/// The q-quantile of values by linear interpolation between order statistics (Hyndman and Fan, 1996, type 7).
/// Infinite values are allowed and count as such; requires at least one value and no NaN.
[[nodiscard]] double quantile(std::vector<double> values, double q);

[[nodiscard]] inline double median(std::vector<double> values) {
  return quantile(std::move(values), 0.5);
}

/// Expected running time: all evaluations spent, those of failed runs too, divided by the successes (Auger and
/// Hansen, 2005). None without a success.
[[nodiscard]] std::optional<double> expected_running_time(std::span<const double> spent, std::int64_t successes);

/// Ranks from 1, the smallest value first; equal values share the mean of their ranks.
[[nodiscard]] std::vector<double> mean_ranks(std::span<const double> values);

} // namespace tanzen
