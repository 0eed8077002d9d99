#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"
#include "tanzen/search/stop_checker.hpp"

#include <cmath>
#include <cstdint>
#include <optional>
#include <string>
#include <utility>

namespace tanzen {

/// A search with its stop rules, advanced one iteration at a time: what a run and every inner search use. It borrows
/// the evaluator, whose limits and target end it by RunEnded, which passes through.
class SearchLoop {
 public:
  /// Of `rules` those on iterations, gradient, step, values and divergence are looked at; throws InputError for rules
  /// that cannot be. `start` has been evaluated.
  SearchLoop(Evaluator& evaluate, Method method, Start start, const StopRules& rules);

  /// Does one iteration. False when it is over, also where this iteration ended it.
  bool step() {
    if (ended_) return false;
    if (!search_.next()) {
      ended_ = RunEnded{Status::method, "the method has ended"};
      return false;
    }
    ++iterations_;
    const Iteration& now = search_.iteration();
    if (now.point().size() != point_.size()) [[unlikely]]
      wrong_length(now);
    moved_squared_ = (now.point() - point_).squaredNorm();
    if (!now.end_reason().empty())
      ended_ = RunEnded{now.end_status(), std::string(now.end_reason())};
    else if (auto end = checker_.check(iterations_, now, point_))
      ended_ = std::move(end);
    point_ = now.point();
    value_ = now.value();
    return !ended_;
  }

  /// What the method told of the last iteration; requires one that did not end by returning.
  [[nodiscard]] const Iteration& iteration() const { return search_.iteration(); }
  [[nodiscard]] bool has_iteration() const { return iterations_ > 0 && search_.has_iteration(); }
  [[nodiscard]] std::int64_t iterations() const { return iterations_; }
  /// Where the method stands, and the value of its view there.
  [[nodiscard]] const Vector& point() const { return point_; }
  [[nodiscard]] double value() const { return value_; }
  /// The point, at the end: a long one is not copied.
  [[nodiscard]] Vector take_point() { return std::move(point_); }
  /// How far the last iteration went.
  [[nodiscard]] double step_norm() const { return std::sqrt(moved_squared_); }
  /// Why it is over.
  [[nodiscard]] const std::optional<RunEnded>& ended() const { return ended_; }

 private:
  [[noreturn]] void wrong_length(const Iteration& now) const;

  Method method_;
  StopChecker checker_;
  Vector point_;
  double value_;
  Search search_;
  double moved_squared_ = 0; ///< a root costs as much as all else of a short iteration
  std::int64_t iterations_ = 0;
  std::optional<RunEnded> ended_;
};

} // namespace tanzen
