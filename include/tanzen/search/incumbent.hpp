#pragma once

#include "tanzen/numeric/constants.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/search/front_archive.hpp"
#include "tanzen/search/ledger.hpp"

#include <cstdint>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace tanzen {

/// The best point of one run, whatever views were asked: feasible before infeasible, then by the problem's own value,
/// or by the violation while none is feasible. It looks at objectives and violation, never at the value of a view. Of
/// several objectives it keeps the feasible nondominated points; then `value` is the first of them, and target and
/// milestones are about what the front covers.
///
/// Points outside the bounds never count. Reaching the target throws RunEnded. Of a problem with noise the best point
/// is the one whose measured value is lowest, as a user would take it; target and milestones are about the value
/// without noise of every point that was visited, and a point that reaches the target is the best from then on.
class Incumbent {
 public:
  /// `problem` must outlive it.
  Incumbent(const Problem& problem, double feasibility);

  /// What a feasible point must be below to be noted; the one comparison of a plain problem's evaluation.
  [[nodiscard]] double bar() const { return bar_; }
  /// A point of a plain problem whose value is below the bar.
  void note(const Vector& x, double value, const Counts& counts);
  /// A point of any problem; `value` by the problem's own scalarization.
  void see(const Vector& x, double value, const Evaluation& at, const Counts& counts);

  /// Whether any point within the bounds had a value.
  [[nodiscard]] bool has_point() const { return has_point_; }
  [[nodiscard]] bool is_feasible() const { return has_point_ && violation_ <= feasibility_; }
  [[nodiscard]] const Vector& point() const { return point_; }
  [[nodiscard]] double value() const { return value_; } ///< to be minimized
  [[nodiscard]] double violation() const { return violation_; }
  /// How many evaluations it took to the point.
  [[nodiscard]] std::int64_t found_at() const { return found_at_; }
  [[nodiscard]] std::int64_t outside_bounds() const { return outside_bounds_; }
  /// Empty of one objective.
  [[nodiscard]] const std::vector<FrontPoint>& front() const;
  /// What the front covers; NaN where that is not measured, and of one objective.
  [[nodiscard]] double covered() const;
  [[nodiscard]] double feasibility() const { return feasibility_; }

  /// What a run has to reach, in values to minimize: of several objectives less than what the front covers.
  void set_target(double target, std::string message);
  /// Values, in falling order and to be minimized, of which it is noted what had been used when each was first reached
  /// by a feasible point.
  void set_milestones(std::vector<double> milestones);
  /// What had been used at each milestone reached so far, in their order.
  [[nodiscard]] const std::vector<Counts>& milestone_counts() const { return milestone_counts_; }

 private:
  void take(const Vector& x, double value, double violation, const Counts& counts);
  [[nodiscard]] bool is_outside(const Vector& x);
  /// Of a feasible point: what it is without noise counts towards target and milestones.
  void judge(const Vector& x, double value, double violation, const Counts& counts);
  /// Notes what is reached now; a run of many iterations waits long for it.
  void reach(double value, const Counts& counts) {
    if (value <= awaited_) note_reached(value, counts);
  }
  void note_reached(double value, const Counts& counts);
  /// Says anew what is waited for.
  void await();

  const Problem* problem_;
  double feasibility_;
  bool bounded_;
  double bar_ = infinity;
  bool has_point_ = false;
  Vector point_;
  double value_ = infinity;
  double violation_ = infinity;
  std::int64_t found_at_ = 0;
  std::int64_t outside_bounds_ = 0;
  std::optional<FrontArchive> front_; ///< of several objectives
  FunctionPointer quiet_;             ///< the objective without its noise; null where it has none
  std::unique_ptr<FunctionWorker> quiet_worker_;
  double target_ = -infinity;
  std::string target_message_;
  std::vector<double> milestones_;
  std::vector<Counts> milestone_counts_;
  double awaited_ = -infinity; ///< the higher of the target and the next milestone
};

} // namespace tanzen
