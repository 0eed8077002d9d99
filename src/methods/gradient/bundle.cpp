#include "tanzen/methods/gradient/bundle.hpp"

#include "tanzen/methods/direct/region_scale.hpp"
#include "tanzen/search/relative_gradient.hpp"

#include "step_memory.hpp"

#include <Eigen/LU>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace tanzen::methods {
namespace {

using Three = Eigen::Vector3d;

/// The weights, not negative and of sum 1, that make lambda' G lambda + 2 b' lambda least: the best over the corners,
/// the edges and the inside of the triangle where the least of each lies.
Three aggregate_weights(const Eigen::Matrix3d& gram, const Three& errors) {
  Three best = Three::Unit(0);
  const auto worth = [&](const Three& weights) { return weights.dot(gram * weights) + 2 * errors.dot(weights); };
  const auto try_at = [&](const Three& weights) {
    if (weights.allFinite() && weights.minCoeff() >= 0 && worth(weights) < worth(best)) best = weights;
  };
  for (int i = 0; i < 3; ++i) {
    try_at(Three::Unit(i));
    const int j = (i + 1) % 3;
    const double bend = gram(i, i) - 2 * gram(i, j) + gram(j, j);
    const double part = (gram(j, j) - gram(i, j) + errors[j] - errors[i]) / bend;
    try_at(part * Three::Unit(i) + (1 - part) * Three::Unit(j));
  }
  Eigen::Matrix4d system = Eigen::Matrix4d::Zero();
  system.topLeftCorner<3, 3>() = gram;
  system.topRightCorner<3, 1>().setOnes();
  system.bottomLeftCorner<1, 3>().setOnes();
  Eigen::Vector4d right;
  right << -errors, 1;
  try_at(system.fullPivLu().solve(right).head<3>());
  return best;
}

/// The metric D: a limited-memory BFGS matrix, lowered by corrections of rank one.
class Metric {
 public:
  Metric(Index n, Index memory, double scale) : pairs_(n, memory), lowered_(n, memory), work_(n), scale_(scale) {}

  void multiply(const Vector& v, Vector& product) {
    product = v;
    if (pairs_.empty()) product *= scale_;
    pairs_.multiply(product);
    for (Index k = 0; k < count_; ++k) product -= lowered_.col(k).dot(v) * lowered_.col(k);
  }
  /// After a serious step.
  void learn(const Vector& step, const Vector& change) {
    constexpr double least = 1e-6; // between facets a curvature can be next to nothing
    if (step.dot(change) > least * step.norm() * change.norm()) pairs_.learn(step, change);
    count_ = 0;
  }
  /// After a null step, by the symmetric update of rank one, where it lowers the metric along no more than it can.
  void lower(const Vector& step, const Vector& change) {
    if (count_ == lowered_.cols()) return;
    multiply(change, work_);
    const double whole = change.dot(work_);
    work_ -= step;
    const double along = change.dot(work_);
    // What is left along the change is the step's own: it must be positive, or the matrix would not stay so.
    if (!(along > 1e-8 * whole) || !(step.dot(change) > 1e-8 * whole)) return;
    lowered_.col(count_++) = work_ / std::sqrt(along);
  }
  void forget(double scale) {
    pairs_.clear();
    count_ = 0;
    scale_ = scale;
  }

 private:
  StepMemory pairs_;
  Matrix lowered_;
  Vector work_;
  Index count_ = 0;
  double scale_;
};

} // namespace

MethodCard Bundle::card() {
  return {.title = "limited-memory bundle method, for functions with kinks",
          .family = "gradient",
          .source = "Haarala, Miettinen and Mäkelä, 2007; Lukšan and Vlček, 1999",
          .summary =
              "Functions with kinks and one gradient at each point, also of very many variables. Few evaluations; "
              "gradient-sampling needs more of them, and assumes less.",
          .needs = Derivatives::gradient};
}

void Bundle::settings(Settings& list) {
  list.add("memory", memory).at_least(2).at_most(1000).means("serious steps that the metric remembers");
  list.add("tolerance", tolerance)
      .positive()
      .means("done when the decrease that is promised is below this, relative to the value's size");
}

Search Bundle::search(Evaluator& evaluate, Start start) const {
  constexpr double serious = 1e-4, null = 0.25, steep = 0.75, distance_weight = 0.25, flat = 1e-7;
  constexpr int most_trials = 30, most_renewals = 6, most_in_vain = 5;
  const Index n = start.point.size();
  const Vector scale = region_scale(evaluate.problem().sampling_box());
  Vector x = std::move(start.point), next(n), slope(n), direction(n), other(n), step(n), change(n), kept_point(n),
         kept_slope(n);
  double value = start.value;
  slope = scale.cwiseProduct(evaluate.gradient(x));
  const auto first_scale = [](const Vector& along) {
    return 0.1 / std::max(along.norm(), std::numeric_limits<double>::min());
  };
  Metric metric(n, memory, first_scale(slope));
  Vector aggregate = slope;
  double aggregate_error = 0;
  int failures = 0;
  int renewals = 0, in_vain = 0; // of the metric, since the last serious step; null steps that changed nothing
  Index null_steps = 0;          // since the last serious one, or renewal
  double before = std::numeric_limits<double>::infinity(); // what the last null step left of the promise
  for (;;) {
    metric.multiply(aggregate, direction);
    direction = -direction;
    const double length = direction.norm();
    const double promised = -aggregate.dot(direction) + 2 * aggregate_error;
    const double size = value_size(value, start.value);
    // A metric that has become too small promises nothing either: then it begins anew, long enough for the aggregate.
    if (promised <= tolerance * size && aggregate.norm() > flat * size && renewals < most_renewals) {
      metric.forget(first_scale(aggregate));
      ++renewals;
      continue;
    }
    // Null steps lower what is promised, one by one and before long to nothing, unless rounding has spoilt the metric
    // or it remembers too few of them: then both begin anew.
    in_vain = promised < before * (1 - 1e-6) ? 0 : in_vain + 1;
    before = promised;
    const bool is_stuck = in_vain > most_in_vain || null_steps > 50 + 10 * n;
    if (is_stuck && renewals < most_renewals) {
      aggregate = slope;
      aggregate_error = 0;
      metric.forget(first_scale(slope));
      ++renewals;
      in_vain = 0;
      null_steps = 0;
      before = std::numeric_limits<double>::infinity();
      continue;
    }
    if (is_stuck) {
      co_yield Iteration(x, value)
          .column("step", 0)
          .column("promised", promised)
          .column("null", 1)
          .stalled("null steps no longer lower what the aggregate of gradients promises");
      continue;
    }
    if (promised <= tolerance * size) {
      co_yield Iteration(x, value)
          .column("step", 0)
          .column("promised", promised)
          .column("null", 1)
          .settled("the aggregate of gradients promises no decrease");
      continue;
    }
    double trial = std::min(1.0, 1 / length), kept = 0, kept_value = value, error = 0;
    bool is_null = false;
    for (int k = 0; k < most_trials && !is_null; ++k) {
      next = x + trial * scale.cwiseProduct(direction);
      if (next == x) break;
      const auto [found, gradient] = evaluate.value_and_gradient(next);
      other = scale.cwiseProduct(gradient);
      const double along = other.dot(direction);
      const bool is_number = std::isfinite(found) && other.allFinite();
      if (is_number && found <= value - serious * trial * promised && found < kept_value) {
        kept = trial;
        kept_value = found;
        kept_point = next;
        kept_slope = other;
        if (along > -steep * promised || trial * length >= 1) break;
        trial *= 4; // it still falls as steeply
        continue;
      }
      if (kept > 0) break;
      error =
          std::max(std::abs(value - found + trial * along), distance_weight * size * trial * trial * length * length);
      is_null = is_number && along - error >= -null * promised;
      if (is_null) break;
      const double bent = is_number ? 0.5 * promised * trial * trial / (found - value + promised * trial) : 0;
      trial = std::clamp(bent, 0.1 * trial, 0.5 * trial);
    }
    if (kept > 0) {
      step = kept * direction;
      change = kept_slope - slope;
      metric.learn(step, change);
      x.swap(kept_point);
      slope.swap(kept_slope);
      value = kept_value;
      aggregate = slope;
      aggregate_error = 0;
      failures = 0;
      renewals = 0;
      in_vain = 0;
      null_steps = 0;
      before = std::numeric_limits<double>::infinity();
    } else if (is_null) {
      ++null_steps;
      step = trial * direction;
      change = other - slope;
      metric.lower(step, change);
      Eigen::Matrix3d gram;
      const std::array<const Vector*, 3> gradients = {&slope, &other, &aggregate};
      for (int i = 0; i < 3; ++i) {
        metric.multiply(*gradients[static_cast<std::size_t>(i)], direction);
        for (int j = 0; j < 3; ++j) gram(i, j) = gradients[static_cast<std::size_t>(j)]->dot(direction);
      }
      const Three errors(0, error, aggregate_error);
      const Three weights = aggregate_weights(0.5 * (gram + gram.transpose()), errors);
      aggregate = weights[0] * slope + weights[1] * other + weights[2] * aggregate;
      aggregate_error = errors.dot(weights);
    } else {
      ++failures;
      metric.forget(first_scale(slope));
      aggregate = slope;
      aggregate_error = 0;
    }
    Iteration now(x, value);
    now.column("step", kept * length).column("promised", promised).column("null", kept > 0 ? 0 : 1);
    if (failures > 1) now.stalled("no step lowers the value, and no gradient beside it says why");
    co_yield now;
  }
}

} // namespace tanzen::methods
