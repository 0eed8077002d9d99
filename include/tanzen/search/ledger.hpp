#pragma once

#include "tanzen/search/counts.hpp"
#include "tanzen/search/status.hpp"
#include "tanzen/search/stop_rules.hpp"

#include <chrono>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>

namespace tanzen {

/// Ends a run from inside an iteration: thrown through the method, caught by the run loop. No std::exception, so that a
/// method's own handlers let it pass.
struct RunEnded {
  Status status;
  std::string message = {};
};

/// Counts, limits and the deadline of one run, one for all its views. It alone throws RunEnded for a limit.
class Ledger {
 public:
  explicit Ledger(const StopRules& rules);

  /// Before an evaluation: throws where none is left, otherwise counts it.
  void spend_evaluation() {
    if (counts_[Spent::evaluations] >= evaluation_limit_ || has_deadline_) check_limits();
    ++counts_[Spent::evaluations];
  }
  /// Before exact derivatives, which only the deadline limits.
  void spend(Spent kind, std::int64_t count = 1) {
    if (has_deadline_) check_limits();
    counts_[kind] += count;
  }

  [[nodiscard]] const Counts& counts() const { return counts_; }
  [[nodiscard]] std::int64_t evaluations() const { return counts_[Spent::evaluations]; }
  /// How many evaluations are left; a very large number where there is no limit.
  [[nodiscard]] std::int64_t evaluations_left() const { return evaluation_limit_ - evaluations(); }
  [[nodiscard]] std::optional<std::int64_t> evaluation_limit() const;
  /// When the limit of time is reached; none where there is no limit, or none that a clock could meet.
  [[nodiscard]] std::optional<std::chrono::steady_clock::time_point> deadline() const;
  /// Since the run began.
  [[nodiscard]] double seconds() const {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - began_).count();
  }

 private:
  void check_limits() const;
  static constexpr std::int64_t no_limit_ = std::numeric_limits<std::int64_t>::max();

  Counts counts_;
  std::int64_t evaluation_limit_;
  bool has_deadline_;
  double seconds_limit_;
  std::chrono::steady_clock::time_point began_;
};

} // namespace tanzen
