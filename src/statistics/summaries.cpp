#include "tanzen/statistics/summaries.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <numeric>

namespace tanzen {

Interval wilson_interval(std::int64_t successes, std::int64_t trials) {
  assert(trials > 0 && successes >= 0 && successes <= trials);
  constexpr double z = 1.959963984540054; // the normal quantile at 0.975
  const auto n = static_cast<double>(trials);
  const double rate = static_cast<double>(successes) / n;
  const double center = (rate + z * z / (2 * n)) / (1 + z * z / n);
  const double half = z / (1 + z * z / n) * std::sqrt(rate * (1 - rate) / n + z * z / (4 * n * n));
  // Where all or none succeed an end is 0 or 1 exactly, which rounding would miss.
  return {successes == 0 ? 0 : std::max(0.0, center - half), successes == trials ? 1 : std::min(1.0, center + half)};
}

double quantile(std::vector<double> values, double q) {
  assert(!values.empty());
  std::ranges::sort(values);
  const double place = q * static_cast<double>(values.size() - 1);
  const auto below = static_cast<std::size_t>(place);
  const double part = place - static_cast<double>(below);
  if (part == 0 || values[below] == values[below + 1]) return values[below];
  return values[below] + part * (values[below + 1] - values[below]);
}

std::optional<double> expected_running_time(std::span<const double> spent, std::int64_t successes) {
  if (successes == 0) return std::nullopt;
  return std::accumulate(spent.begin(), spent.end(), 0.0) / static_cast<double>(successes);
}

std::vector<double> mean_ranks(std::span<const double> values) {
  std::vector<std::size_t> order(values.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::ranges::sort(order, [&](std::size_t a, std::size_t b) { return values[a] < values[b]; });
  std::vector<double> ranks(values.size());
  for (std::size_t first = 0; first < order.size();) {
    std::size_t last = first;
    while (last + 1 < order.size() && values[order[last + 1]] == values[order[first]]) ++last;
    const double shared = 1 + 0.5 * static_cast<double>(first + last);
    for (std::size_t k = first; k <= last; ++k) ranks[order[k]] = shared;
    first = last + 1;
  }
  return ranks;
}

} // namespace tanzen
