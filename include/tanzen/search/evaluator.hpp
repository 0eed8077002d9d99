#pragma once

#include "tanzen/problem/problem.hpp"
#include "tanzen/search/found_minima.hpp"
#include "tanzen/search/status.hpp"
#include "tanzen/search/stop_rules.hpp"
#include "tanzen/search/team.hpp"

#include <chrono>
#include <cmath>
#include <exception>
#include <memory>
#include <string>
#include <vector>

namespace tanzen {

/// How much of everything a run has used.
struct Counts {
  std::int64_t evaluations = 0; ///< values, those of difference gradients included
  std::int64_t gradients = 0;   ///< exact gradients
  std::int64_t hessians = 0;    ///< exact Hessians
};

/// What went wrong on the way without ending the run.
struct Events {
  std::int64_t outside_domain = 0;   ///< values that were NaN or infinite
  std::int64_t broken = 0;           ///< evaluations that broke down and gave no value
  std::int64_t outside_bounds = 0;   ///< values of points outside the bounds; they never count as best
  std::int64_t broken_gradients = 0; ///< gradients with an entry that is NaN or infinite
  std::string first_broken;          ///< what the first broken evaluation said
};

/// Ends a run from inside an iteration: thrown by the Evaluator through the method, caught by the run loop.
/// No std::exception, so that a method's own handlers let it pass.
struct RunEnded {
  Status status;
  std::string message;
};

/// What a method asks for values. It counts, keeps the limits to the evaluation, remembers the best feasible
/// point, and turns what is no number into infinity. Values are those to minimize, whatever the sense.
/// Belongs to one run and one thread; throws RunEnded when the run is over.
class Evaluator {
 public:
  Evaluator(const Problem& problem, const StopRules& rules, DerivativeMode derivative, Team team = {});
  Evaluator(const Evaluator&) = delete;
  Evaluator& operator=(const Evaluator&) = delete;

  struct ValueAndGradient {
    double value;
    const Vector& gradient; ///< valid until the next gradient
  };

  /// The value at `x`; infinity where the objective has none. Counts one evaluation.
  double operator()(const Vector& x) {
    before_evaluation();
    ++counts_.evaluations;
    return noted(x, sign_ * raw_value(x));
  }

  /// The values at the columns of `points`: the same values, counts and best point as one after the other, computed
  /// as a batch, and by the team's threads where the objective may be called from several at once.
  void values(const Matrix& points, Vector& values);

  /// The gradient at `x`, valid until the next one. Counts one gradient if exact; otherwise n + 1 (forward) or
  /// 2 n (central) evaluations. Allocates nothing after the first.
  const Vector& gradient(const Vector& x);

  /// Both at once: one evaluation and one gradient if exact, otherwise n + 1 or 2 n + 1 evaluations.
  ValueAndGradient value_and_gradient(const Vector& x);

  /// The Hessian at `x`. Counts one Hessian if exact; otherwise differences of gradients at their cost.
  const Matrix& hessian(const Vector& x);

  /// The Hessian at `x` times `direction`, into `product`. Exact where the objective has a Hessian, and then counted as
  /// one gradient, whose cost it has within a factor of two; otherwise a difference of two gradients at their cost,
  /// with `at_x` the gradient at `x` (which may be the evaluator's own).
  void hessian_times(const Vector& x, const Vector& at_x, const Vector& direction, Vector& product);

  /// The gradient of the last call, as `gradient` returned it.
  [[nodiscard]] const Vector& last_gradient() const { return gradient_; }

  [[nodiscard]] Index dimension() const { return dimension_; }
  [[nodiscard]] const Bounds& bounds() const { return problem_.bounds(); }
  [[nodiscard]] const Problem& problem() const { return problem_; }
  [[nodiscard]] const Counts& counts() const { return counts_; }
  [[nodiscard]] const Events& events() const { return events_; }
  [[nodiscard]] bool has_best() const { return has_best_; }
  /// The feasible point with the least value so far; meaningful where `has_best`.
  [[nodiscard]] const Vector& best_point() const { return best_point_; }
  [[nodiscard]] double best_value() const { return best_value_; }
  /// How many evaluations it took to the best point.
  [[nodiscard]] std::int64_t best_at() const { return best_at_; }
  /// The norm of the projected gradient at the start; NaN where the method did not ask for it first of all.
  [[nodiscard]] double start_gradient_norm() const { return start_gradient_norm_; }
  [[nodiscard]] double seconds() const;
  /// How many evaluations the run may take in all; nothing where there is no limit.
  [[nodiscard]] std::optional<std::int64_t> evaluation_limit() const;
  /// A local minimum that the method is sure of: it goes to the outcome's list.
  void found_minimum(const Vector& x, double value);
  [[nodiscard]] const FoundMinima& minima() const { return minima_; }
  /// Whether gradients come from differences.
  [[nodiscard]] bool uses_differences() const { return !exact_; }

  /// Sets what a run has to reach, in values to minimize.
  void set_target(double target, std::string message);
  /// Sets values, in falling order and to be minimized, of which it is noted what had been used when each was first
  /// reached by a feasible point.
  void set_milestones(std::vector<double> milestones) { milestones_ = std::move(milestones); }
  /// What had been used at each milestone reached so far, in their order.
  [[nodiscard]] const std::vector<Counts>& milestone_counts() const { return milestone_counts_; }

 private:
  void before_evaluation() {
    if (counts_.evaluations >= evaluation_limit_ || has_time_limit_) check_limits();
  }
  void check_limits() const;
  double raw_value(const Vector& x);
  template <class Point>
  double noted(const Point& x, double value) {
    if (!(std::abs(value) < infinity)) return note_no_number(x, value);
    if (value < best_value_) note_better(x, value);
    return value;
  }
  double note_no_number(const Vector& x, double value);
  void note_better(const Vector& x, double value);
  double note_broken(const Vector& x, const char* what);
  void share_out(const Matrix& points);
  /// Asks the objective for something that counts; what it throws ends the run.
  template <class Ask>
  void ask(const Vector& x, std::int64_t& count, Ask&& function);
  void exact_gradient(const Vector& x, double& value);
  void difference_gradient(const Vector& x, double value);
  [[nodiscard]] bool is_first_at_start(const Vector& x);
  void note_gradient(const Vector& x, bool at_start);
  [[noreturn]] void objective_threw(const Vector& x, const char* what) const;

  static constexpr double infinity = std::numeric_limits<double>::infinity();

  /// What one thread of the team works with.
  struct Mate {
    std::unique_ptr<FunctionWorker> worker;
    Matrix points;
    Vector values;
  };

  const Problem problem_;
  std::unique_ptr<FunctionWorker> worker_;
  Index dimension_;
  double sign_;
  bool exact_;
  bool exact_hessian_;
  bool central_;
  bool bounded_;
  bool has_time_limit_;
  bool stops_on_broken_;
  bool is_broken_ = false; ///< the last value is missing because the evaluation broke
  std::int64_t evaluation_limit_;
  double seconds_limit_;
  std::chrono::steady_clock::time_point began_;

  Counts counts_;
  Events events_;
  bool has_best_ = false;
  double best_value_ = infinity;
  Vector best_point_;
  std::int64_t best_at_ = 0;
  double target_ = -infinity;
  std::string target_message_;
  std::vector<double> milestones_;
  std::vector<Counts> milestone_counts_;
  bool gradient_asked_ = false;
  double start_gradient_norm_ = std::numeric_limits<double>::quiet_NaN();
  Vector gradient_;
  Vector probe_; ///< for differences of values
  Vector moved_; ///< for differences of gradients
  Matrix hessian_;
  FoundMinima minima_;
  Team team_;
  std::vector<Mate> mates_;                ///< one a part of a batch
  std::vector<std::exception_ptr> thrown_; ///< by each evaluation of a batch
  Vector batch_;
};

} // namespace tanzen
