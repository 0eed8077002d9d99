#pragma once

#include "tanzen/methods/line/line_search.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/noise_estimate.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {

/// Slopes from noisy values: central differences whose spacing balances the noise against how the slope bends (Berahas,
/// Byrd and Nocedal, 2019, equation 2.7), with the curvature along a direction measured as Moré and Wild (2012,
/// "Estimating derivatives of noisy simulations", section 5) do; in sizes of the variables, in which spacings are, the
/// third derivative is taken to be as large as the second. Forward differences, whose error is of the order of the
/// noise's root, do not come along the curved valley.
class NoisySlopes {
 public:
  /// `level` 0: estimated where it is measured.
  NoisySlopes(Evaluator& evaluate, double level)
      : evaluate_(evaluate), sizes_(evaluate.problem().typical_sizes()), known_(level), level_(level),
        probe_(sizes_.size()), best_(sizes_.size()) {}

  [[nodiscard]] double level() const { return level_; }
  [[nodiscard]] double spacing() const { return spacing_; }
  /// The best point of the last differences.
  [[nodiscard]] const Vector& best_point() const { return best_; }
  [[nodiscard]] double best_value() const { return best_value_; }

  /// The noise, unless it was given, and the spacing.
  void measure(const Vector& x, double value, const RandomStream& random, bool noise_too = true) {
    if (known_ == 0 && noise_too) {
      const NoiseEstimate seen =
          estimate_noise([&](const Vector& at) { return evaluate_(at); }, x, sizes_, random.child({"noise"}));
      if (seen.found || level_ == 0) level_ = seen.level;
    }
    // The rounding of values is noise as well.
    level_ = std::max(level_, std::numeric_limits<double>::epsilon() * std::abs(value));
    RandomStream along = random.child({"along"});
    along.fill_normal(probe_);
    const double curvature = curvature_along(x, value, probe_.normalized());
    if (curvature > 0 && level_ > 0) spacing_ = std::cbrt(3 * level_ / curvature);
  }

  /// The standard deviation of what noise puts into the change of the slope along a step.
  [[nodiscard]] double uncertainty(const Vector& x, const Vector& step) const {
    double squared = 0;
    for (Index i = 0; i < x.size(); ++i) {
      const double part = step[i] / (spacing_ * std::max(std::abs(x[i]), sizes_[i]));
      squared += part * part;
    }
    return level_ * std::sqrt(squared); // two differences of two values, twice the spacing apart
  }

  void differences(const Vector& x, double value, Vector& gradient) {
    best_value_ = std::numeric_limits<double>::infinity();
    probe_ = x;
    for (Index i = 0; i < x.size(); ++i) {
      const double step = spacing_ * std::max(std::abs(x[i]), sizes_[i]);
      const double up = look(i, x[i] + step), down = look(i, x[i] - step);
      if (std::isfinite(up) && std::isfinite(down))
        gradient[i] = (up - down) / (2 * step);
      else // one side has no value
        gradient[i] = std::isfinite(up) ? (up - value) / step : std::isfinite(down) ? (value - down) / step : 0;
      probe_[i] = x[i];
    }
  }

 private:
  double look(Index i, double coordinate) {
    probe_[i] = coordinate;
    const double found = evaluate_(probe_);
    if (found < best_value_) {
      best_value_ = found;
      best_ = probe_;
    }
    return found;
  }

  /// The size of the second derivative along a direction of length 1, by two spacings at most; 0 where noise hides it.
  double curvature_along(const Vector& x, double value, const Vector& direction) {
    constexpr double clear = 100, small_change = 0.1;
    const double size = std::max(std::abs(value), level_);
    double spacing = level_ > 0 ? std::pow(level_ / size, 0.25) : 1e-4, curvature = 0;
    for (int tries = 0; tries < 2; ++tries) {
      const Vector step = spacing * direction.cwiseProduct(x.cwiseAbs().cwiseMax(sizes_));
      const double up = evaluate_(x + step), down = evaluate_(x - step), second = std::abs(up - 2 * value + down);
      if (!std::isfinite(second)) return curvature;
      curvature = second / (spacing * spacing);
      const double most = small_change * std::max({std::abs(value), std::abs(up), std::abs(down)});
      const bool is_clear = second >= clear * level_;
      if (is_clear && std::abs(up - value) <= most && std::abs(down - value) <= most) break;
      if (curvature > 0 && level_ > 0) spacing = std::pow(level_ / curvature, 0.25) * (is_clear ? 1 : std::sqrt(clear));
    }
    return curvature;
  }

  Evaluator& evaluate_;
  Vector sizes_;
  double known_, level_, spacing_ = 1e-4;
  Vector probe_, best_;
  double best_value_ = std::numeric_limits<double>::infinity();
};

/// Quasi-Newton on noisy values (Berahas, Byrd and Nocedal, 2019, algorithms 1 and 2): differences with the spacing
/// that the noise wants, a line search that forgives twice the noise, and, where it finds no step, a look at noise and
/// spacing anew before anything is given up. `Memory` is what the direction is made of: `multiply(q)` by the estimate
/// of the inverse Hessian, `learn(s, y)`, `forget()`.
///
/// Cost of an iteration: 2 n values and one a trial; the spacing is measured anew every tenth.
template <class Memory>
Search descend_through_noise(Evaluator& evaluate, Start start, double level, Memory memory) {
  constexpr double decrease = 1e-4, forgiven = 2, alike = 10, sure = 2;
  constexpr Index most_trials = 30, most_failures = 3, often = 10;
  const Index n = start.point.size();
  NoisySlopes slopes(evaluate, level);
  const FirstLength first_length(evaluate.problem());
  Vector x = std::move(start.point), g(n), direction(n), next(n), next_g(n);
  double value = start.value;
  RandomStream random = start.random;
  slopes.measure(x, value, random);
  slopes.differences(x, value, g);
  Index failures = 0;
  bool is_first = true;
  for (Index k = 1;; ++k) {
    direction = -g;
    memory.multiply(direction);
    double slope = g.dot(direction);
    if (!(slope < 0)) {
      memory.forget();
      direction = -g;
      slope = -g.squaredNorm();
    }
    double step = is_first ? first_length(value, g) : 1, next_value = value;
    bool is_found = false;
    for (Index trial = 0; trial < most_trials && slope < 0 && !is_found; ++trial) {
      if (trial > 0) step *= 0.5;
      next = x + step * direction;
      next_value = evaluate(next);
      is_found = next_value <= value + decrease * step * slope + forgiven * slopes.level();
    }
    bool has_moved = is_found;
    if (!is_found) { // algorithm 2: is the spacing still right, and is there any better point about?
      const double before = slopes.spacing();
      slopes.measure(x, value, random.child({"recovery", k}));
      const bool is_new = slopes.spacing() > alike * before || slopes.spacing() < before / alike;
      if (!is_new && direction.norm() > 0) {
        next = x + before / direction.norm() * direction;
        next_value = evaluate(next);
        has_moved = next_value <= value && next_value <= slopes.best_value();
        if (!has_moved && slopes.best_value() <= value) {
          next = slopes.best_point();
          next_value = slopes.best_value();
          has_moved = true;
        }
      }
      memory.forget();
    }
    failures = is_found ? 0 : failures + 1;
    if (!has_moved) {
      next = x;
      next_value = value;
    }
    if (is_found && k % often == 0) slopes.measure(next, next_value, random.child({"spacing", k}), false);
    slopes.differences(next, next_value, next_g);
    if (is_found) {
      const Vector s = next - x, y = next_g - g;
      if (s.dot(y) > sure * slopes.uncertainty(x, s)) memory.learn(s, y); // otherwise noise would decide the curvature
    }
    is_first = is_first && !is_found;
    x.swap(next);
    g.swap(next_g);
    value = next_value;
    Iteration now(x, value);
    now.gradient(g)
        .column("step", has_moved ? step : 0)
        .column("noise", slopes.level())
        .column("spacing", slopes.spacing());
    if (failures >= most_failures) now.stalled("the noise of the values hides any further way down");
    co_yield now;
  }
}

/// Lists the setting that chooses it.
inline void add_noise(Settings& list, std::optional<double>& noise) {
  list.add("noise", noise)
      .at_least(0)
      .means("noise of the values, which differences and line search then bear; 0 means that it is estimated")
      .unset_means("values are taken for exact");
}

} // namespace tanzen::methods
