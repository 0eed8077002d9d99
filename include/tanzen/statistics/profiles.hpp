#pragma once

#include "tanzen/numeric/vector.hpp"
#include "tanzen/statistics/summaries.hpp"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace tanzen {

/// A rising step function: `share[k]` of all cases are done once the cost comes to `cost[k]`. What is never done is in
/// no step, but in the whole that shares are taken of.
struct StepCurve {
  std::vector<double> cost = {};
  std::vector<double> share = {};

  /// The share at a cost; 0 before the first step.
  [[nodiscard]] double at(double cost_so_far) const;
};

/// The empirical distribution of costs; infinite ones are failures: counted, never done.
[[nodiscard]] StepCurve runtime_distribution(std::span<const double> costs);

/// The mean of a runtime distribution over the logarithm of the cost between two costs: 1 is all done at once, 0
/// nothing ever (the anytime score). Requires 0 < from < to.
[[nodiscard]] double area_under(const StepCurve& curve, double from, double to);

/// Performance profiles (Dolan and Moré, 2002, section 2): for each method the distribution over the problems of its
/// cost divided by the least cost of all methods. `costs` holds a row a problem and a column a method, infinite where a
/// method failed. A problem that no method solved counts against all.
[[nodiscard]] std::vector<StepCurve> performance_profiles(const Matrix& costs);

/// Data profiles (Moré and Wild, 2009, equation 2.4): for each method the distribution over the problems of its cost in
/// units of n + 1 evaluations, n the number of a problem's variables.
[[nodiscard]] std::vector<StepCurve> data_profiles(const Matrix& costs, std::span<const Index> variables);

/// Samples of one size drawn again with replacement (the bootstrap; Efron and Tibshirani, 1993). The draws are made
/// once and serve any number of samples. Memory: draws times size numbers.
class Resampling {
 public:
  explicit Resampling(Index size, std::uint64_t seed = 1, Index draws = 1000);

  [[nodiscard]] Index size() const { return times_.cols(); }

  /// An interval of 95 % for the expected running time (percentiles, section 13.3). A draw without a success counts as
  /// infinity. Requires samples of the size.
  [[nodiscard]] Interval running_time(std::span<const double> spent, const std::vector<bool>& successes) const;

 private:
  Matrix times_; ///< how often each value is drawn, a row a draw
};

[[nodiscard]] Interval running_time_interval(std::span<const double> spent, const std::vector<bool>& successes,
                                             std::uint64_t seed = 1, std::int64_t draws = 1000);

/// Quartiles of several curves of best values on one grid of costs. A run that has ended keeps its last value; before
/// its first one it counts as infinite.
struct QuartileCurves {
  std::vector<double> lower = {}, median = {}, upper = {};
};

/// One run's best value after each of its costs, both in the order of the run.
struct ProgressCurve {
  std::vector<double> cost = {};
  std::vector<double> value = {};
};

[[nodiscard]] QuartileCurves quartile_curves(const std::vector<ProgressCurve>& runs, std::span<const double> grid);

/// The rate of convergence of one run by its hits: how many decades its gap fell for each evaluation, by least squares
/// over the last `most` gaps that it reached (two decades of the usual targets). None with fewer than three of them, or
/// where they were all reached at once. `costs` may be shorter than `gaps`, which fall.
[[nodiscard]] std::optional<double> decades_per_evaluation(std::span<const double> gaps, std::span<const double> costs,
                                                           std::size_t most = 9);

/// How cost grows with the number of variables: cost = factor * n^exponent by least squares on logarithms.
struct Scaling {
  double factor = 0;
  double exponent = 0;
  double exponent_error = 0; ///< standard error of the exponent; infinite with two points
};

/// Requires at least two different numbers of variables and costs above 0, all finite.
[[nodiscard]] Scaling fit_scaling(std::span<const double> variables, std::span<const double> costs);

} // namespace tanzen
