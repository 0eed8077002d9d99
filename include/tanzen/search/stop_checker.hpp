#pragma once

#include "tanzen/numeric/vector.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/search/iteration.hpp"
#include "tanzen/search/ledger.hpp"
#include "tanzen/search/stop_rules.hpp"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <optional>
#include <vector>

namespace tanzen {

/// Throws InputError for rules that cannot be.
void check_rules(const StopRules& rules);

/// Applies the stop rules after each iteration. Limits on evaluations, time and the target are the
/// Evaluator's, which can end a run inside an iteration.
class StopChecker {
 public:
  /// Throws InputError for rules that cannot be. The problem, which must outlive it, says how large its variables are.
  StopChecker(const StopRules& rules, const Problem& problem);

  void begin(double start_value);

  /// Why the run is over after an iteration from a point, or nothing. Values are those to minimize.
  [[nodiscard]] std::optional<RunEnded> check(std::int64_t iteration, const Iteration& now, const Vector& from) {
    const double value = now.value();
    note_rise(value);
    if (rises_ >= rises_to_diverge_ || !is_finite(value)) {
      if (auto end = divergence(now.point(), value)) return end;
    }
    if (iteration == 1) measure_depth(value);
    const bool looks_far = (iteration & 15) == 1; // which takes a pass over the variables
    if (value < deepest_ || (looks_far && value < start_value_ && is_far(now.point()))) return too_deep(value);
    // The first comparison is what no small relative gradient fails, and nearly free.
    if (now.gradient_norm() * least_size_ <= most_norm_ * std::max(std::abs(value), 1.0)) {
      if (auto end = small_gradient(now)) return end;
    }
    if (now.kkt() <= gradient_tolerance_ && now.violation() <= feasibility_) return small_residual(now.kkt());
    if (has_window_) {
      if (auto end = settled(now, from)) return end;
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
  [[nodiscard]] std::optional<RunEnded> small_gradient(const Iteration& now) const;
  [[nodiscard]] double relative_gradient_at(const Iteration& now) const;
  [[nodiscard]] RunEnded small_residual(double residual) const;
  [[nodiscard]] std::optional<RunEnded> settled(const Iteration& now, const Vector& from);
  void measure_depth(double value);
  /// Further out than a minimum lies, in sizes of the variables.
  [[nodiscard]] bool is_far(const Vector& point) const;
  [[nodiscard]] RunEnded too_deep(double value) const;
  [[nodiscard]] RunEnded limit() const;

  static constexpr std::int64_t rises_to_diverge_ = 5;
  static constexpr std::int64_t patience_without_value_ = 1000;

  StopRules rules_;
  const Problem* problem_;
  std::int64_t iterations_;
  double gradient_tolerance_;
  double least_size_ = 0; ///< of the variables, 0 within bounds
  double most_norm_ = -1; ///< that the norm times that size can be, in sizes of the value
  double feasibility_;
  bool has_window_;
  double start_value_ = 0;
  double last_value_ = 0;
  double deepest_ = -std::numeric_limits<double>::infinity(); ///< below it a value falls without end
  std::int64_t rises_ = 0;
  std::int64_t without_value_ = 0;
  std::int64_t short_steps_ = 0;
  std::vector<double> values_; ///< the last `window`, a ring
  std::size_t next_ = 0;
};

} // namespace tanzen
