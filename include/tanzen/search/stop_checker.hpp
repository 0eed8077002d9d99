#pragma once

#include "tanzen/numeric/vector.hpp"
#include "tanzen/search/iteration.hpp"
#include "tanzen/search/ledger.hpp"
#include "tanzen/search/stop_rules.hpp"

#include <cmath>
#include <optional>
#include <vector>

namespace tanzen {

/// Applies the stop rules after each iteration. Limits on evaluations, time and the target are the
/// Evaluator's, which can end a run inside an iteration.
class StopChecker {
 public:
  /// Throws InputError for rules that cannot be.
  explicit StopChecker(const StopRules& rules);

  void begin(double start_value);

  /// Why the run is over after an iteration that went so far, squared, or nothing. Values are those to minimize.
  [[nodiscard]] std::optional<RunEnded> check(std::int64_t iteration, const Iteration& now, double moved_squared) {
    const double value = now.value();
    note_rise(value);
    if (rises_ >= rises_to_diverge_ || !is_finite(value)) {
      if (auto end = divergence(now.point(), value)) return end;
    }
    if (now.gradient_norm() <= gradient_tolerance_ && !(now.relative_gradient() > gradient_tolerance_) &&
        !(now.violation() > feasibility_))
      return small_gradient(now.gradient_norm());
    if (now.kkt() <= gradient_tolerance_ && now.violation() <= feasibility_) return small_residual(now.kkt());
    if (has_window_) {
      if (auto end = settled(now.point(), value, std::sqrt(moved_squared))) return end;
    }
    if (iteration >= iterations_) return limit();
    return std::nullopt;
  }

 private:
  static bool is_finite(double value) { return value - value == 0; }
  void note_rise(double value) {
    rises_ = value > last_value_ ? rises_ + 1 : 0;
    last_value_ = value;
  }
  [[nodiscard]] std::optional<RunEnded> divergence(const Vector& point, double value);
  [[nodiscard]] RunEnded small_gradient(double norm) const;
  [[nodiscard]] RunEnded small_residual(double residual) const;
  [[nodiscard]] std::optional<RunEnded> settled(const Vector& point, double value, double step);
  [[nodiscard]] RunEnded limit() const;

  static constexpr std::int64_t rises_to_diverge_ = 5;
  static constexpr std::int64_t patience_without_value_ = 1000;

  StopRules rules_;
  std::int64_t iterations_;
  double gradient_tolerance_;
  double feasibility_;
  bool has_window_;
  double start_value_ = 0;
  double last_value_ = 0;
  std::int64_t rises_ = 0;
  std::int64_t without_value_ = 0;
  std::int64_t short_steps_ = 0;
  std::vector<double> values_; ///< the last `window`, a ring
  std::size_t next_ = 0;
};

} // namespace tanzen
