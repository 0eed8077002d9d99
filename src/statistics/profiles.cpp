#include "tanzen/statistics/profiles.hpp"

#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/random.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace tanzen {

double StepCurve::at(double cost_so_far) const {
  const auto after = std::ranges::upper_bound(cost, cost_so_far);
  return after == cost.begin() ? 0 : share[static_cast<std::size_t>(after - cost.begin()) - 1];
}

StepCurve runtime_distribution(std::span<const double> costs) {
  std::vector<double> sorted(costs.begin(), costs.end());
  std::erase_if(sorted, [](double cost) { return !std::isfinite(cost); });
  std::ranges::sort(sorted);
  StepCurve curve;
  for (std::size_t k = 0; k < sorted.size(); ++k) {
    const double share = static_cast<double>(k + 1) / static_cast<double>(costs.size());
    if (!curve.cost.empty() && curve.cost.back() == sorted[k]) {
      curve.share.back() = share;
    } else {
      curve.cost.push_back(sorted[k]);
      curve.share.push_back(share);
    }
  }
  return curve;
}

double area_under(const StepCurve& curve, double from, double to) {
  assert(from > 0 && from < to);
  double area = 0, begin = std::log(from), share = curve.at(from);
  for (std::size_t k = 0; k < curve.cost.size(); ++k) {
    if (curve.cost[k] <= from) continue;
    const double end = std::log(std::min(curve.cost[k], to));
    area += share * (end - begin);
    begin = end;
    share = curve.share[k];
    if (curve.cost[k] >= to) break;
  }
  area += share * (std::log(to) - begin);
  return area / (std::log(to) - std::log(from));
}

std::vector<StepCurve> performance_profiles(const Matrix& costs) {
  std::vector<StepCurve> profiles;
  const Vector least = costs.rowwise().minCoeff();
  for (Index m = 0; m < costs.cols(); ++m) {
    std::vector<double> ratios;
    for (Index problem = 0; problem < costs.rows(); ++problem)
      ratios.push_back(std::isfinite(costs(problem, m)) ? costs(problem, m) / least[problem] : infinity);
    profiles.push_back(runtime_distribution(ratios));
  }
  return profiles;
}

std::vector<StepCurve> data_profiles(const Matrix& costs, std::span<const Index> variables) {
  assert(static_cast<Index>(variables.size()) == costs.rows());
  std::vector<StepCurve> profiles;
  for (Index m = 0; m < costs.cols(); ++m) {
    std::vector<double> simplices;
    for (Index problem = 0; problem < costs.rows(); ++problem)
      simplices.push_back(costs(problem, m) / static_cast<double>(variables[static_cast<std::size_t>(problem)] + 1));
    profiles.push_back(runtime_distribution(simplices));
  }
  return profiles;
}

Resampling::Resampling(Index size, std::uint64_t seed, Index draws) : times_(Matrix::Zero(draws, size)) {
  RandomStream random(seed, {"bootstrap"});
  for (Index draw = 0; draw < draws; ++draw) {
    for (Index k = 0; k < size; ++k) times_(draw, random.below(size)) += 1;
  }
}

Interval Resampling::running_time(std::span<const double> spent, const std::vector<bool>& successes) const {
  assert(static_cast<Index>(spent.size()) == size() && spent.size() == successes.size());
  const Eigen::Map<const Vector> costs(spent.data(), size());
  Vector is_success(size());
  for (std::size_t k = 0; k < successes.size(); ++k) is_success[static_cast<Index>(k)] = successes[k] ? 1 : 0;
  const Vector sums = times_ * costs, solved = times_ * is_success;
  std::vector<double> times;
  for (Index draw = 0; draw < sums.size(); ++draw)
    times.push_back(solved[draw] > 0 ? sums[draw] / solved[draw] : infinity);
  return {quantile(times, 0.025), quantile(times, 0.975)};
}

Interval running_time_interval(std::span<const double> spent, const std::vector<bool>& successes, std::uint64_t seed,
                               std::int64_t draws) {
  return Resampling(static_cast<Index>(spent.size()), seed, draws).running_time(spent, successes);
}

QuartileCurves quartile_curves(const std::vector<ProgressCurve>& runs, std::span<const double> grid) {
  assert(!runs.empty());
  QuartileCurves curves;
  for (const double cost : grid) {
    std::vector<double> values;
    for (const ProgressCurve& run : runs) {
      const auto after = std::ranges::upper_bound(run.cost, cost);
      values.push_back(after == run.cost.begin() ? infinity
                                                 : run.value[static_cast<std::size_t>(after - run.cost.begin()) - 1]);
    }
    curves.lower.push_back(quantile(values, 0.25));
    curves.median.push_back(quantile(values, 0.5));
    curves.upper.push_back(quantile(values, 0.75));
  }
  return curves;
}

std::optional<double> decades_per_evaluation(std::span<const double> gaps, std::span<const double> costs,
                                             std::size_t most) {
  assert(costs.size() <= gaps.size());
  const std::size_t count = std::min(most, costs.size());
  if (count < 3) return std::nullopt;
  const std::size_t first = costs.size() - count;
  const Eigen::Map<const Vector> x(costs.data() + first, static_cast<Index>(count));
  const Vector y = Eigen::Map<const Vector>(gaps.data() + first, static_cast<Index>(count)).array().log10();
  const Vector away = x.array() - x.mean();
  if (away.isZero(0)) return std::nullopt;
  return -away.dot(Vector(y.array() - y.mean())) / away.squaredNorm();
}

Scaling fit_scaling(std::span<const double> variables, std::span<const double> costs) {
  assert(variables.size() == costs.size() && variables.size() >= 2);
  const auto count = static_cast<Index>(variables.size());
  Vector x(count), y(count);
  for (Index k = 0; k < count; ++k) {
    x[k] = std::log(variables[static_cast<std::size_t>(k)]);
    y[k] = std::log(costs[static_cast<std::size_t>(k)]);
  }
  const double mean_x = x.mean(), mean_y = y.mean();
  const double spread = (x.array() - mean_x).square().sum();
  assert(spread > 0);
  Scaling scaling;
  scaling.exponent = ((x.array() - mean_x) * (y.array() - mean_y)).sum() / spread;
  scaling.factor = std::exp(mean_y - scaling.exponent * mean_x);
  const double left = (y.array() - mean_y - scaling.exponent * (x.array() - mean_x)).square().sum();
  scaling.exponent_error = count > 2 ? std::sqrt(left / static_cast<double>(count - 2) / spread) : infinity;
  return scaling;
}

} // namespace tanzen
