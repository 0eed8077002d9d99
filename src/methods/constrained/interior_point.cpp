#include "tanzen/methods/constrained/interior_point.hpp"

#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/symmetric_factors.hpp"

#include "barrier.hpp"
#include "constrained_point.hpp"
#include "damped_model.hpp"
#include "filter.hpp"
#include "restoring_step.hpp"
#include "scaled_rows.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

namespace tanzen::methods {
namespace {

/// One run: iterate, barrier, filter, and the system that is factored.
class InteriorWalk {
 public:
  InteriorWalk(const InteriorPoint& settings, Evaluator& evaluate, Vector start)
      : settings_(settings), evaluate_(evaluate), rows_(evaluate.problem().constraints()),
        box_(evaluate.bounds().lower(), evaluate.bounds().upper()), slack_box_(rows_.lower(), rows_.upper()),
        barrier_(settings.barrier), damped_(start.size()) {
    box_.push_inside(start);
    can_go_on_ = here.evaluate_at(evaluate, start) && here.derive(evaluate);
    if (can_go_on_) begin();
  }

  ConstrainedPoint here;
  double length = 0;
  std::string_view infeasible, settled, stalled;

  [[nodiscard]] double barrier() const { return barrier_; }
  [[nodiscard]] double shift() const { return shift_; }
  [[nodiscard]] Vector multipliers() const { return rows_.scales.cwiseProduct(multipliers_) / value_scale_; }
  [[nodiscard]] double kkt() const {
    return can_go_on_ ? kkt_residual(here, multipliers(), evaluate_.problem().constraints(), evaluate_.bounds())
                      : std::numeric_limits<double>::quiet_NaN();
  }

  void iterate() {
    length = 0;
    if (!can_go_on_) {
      stalled = "the problem or its derivatives are no numbers here";
      return;
    }
    lower_barrier();
    find_curvature();
    if (!factor()) {
      restore("no shift gives the linear system the right pivots");
      return;
    }
    const NewtonStep step = solve(misfits_);
    if (!step.x.allFinite()) {
      restore("the linear system has no solution in these numbers");
      return;
    }
    const bool is_tiny = (step.x.array().abs() <= 1e-15 * (1 + here.x.array().abs())).all() && violation() <= 1e-9;
    if (is_tiny && barrier_ <= least_barrier()) {
      settled = "the step is beyond the precision of the numbers";
      return;
    }
    if (!search_along(step)) restore("no step lowers the violation or the barrier function any more");
  }

 private:
  // Section 3.8: nothing steeper than 100 at the start.
  void begin() {
    constexpr double steep = 100;
    value_scale_ = std::min(1.0, steep / std::max(here.gradient.lpNorm<Eigen::Infinity>(), 1e-300));
    rows_.scale_by(here.jacobian);
    slack_box_ = Barrier(rows_.lower(), rows_.upper());
    slacks_ = rows_.scales.cwiseProduct(here.rows);
    slack_box_.push_inside(slacks_);
    multipliers_.setZero(rows_.size());
    scale_derivatives();
    estimate_multipliers();
    first_violation_ = violation();
  }

  void scale_derivatives() {
    gradient_ = value_scale_ * here.gradient;
    jacobian_ = rows_.scales.asDiagonal() * here.jacobian;
    misfits_ = rows_.misfits(here.rows, slacks_);
  }
  [[nodiscard]] double violation() const { return misfits_.lpNorm<1>(); }
  [[nodiscard]] double barrier_value(const ConstrainedPoint& at, const Vector& slacks) const {
    return value_scale_ * at.value + barrier_ * (box_.value(at.x) + slack_box_.value(slacks));
  }
  [[nodiscard]] double least_barrier() const { return 0.1 * settings_.accuracy; }

  /// By least squares on the Lagrangian's gradient by variables and slacks (equation 36).
  void estimate_multipliers() {
    constexpr double largest = 1e3;
    const Index n = here.x.size(), m = rows_.size();
    if (m == 0) return;
    Matrix columns = Matrix::Zero(n + m, m);
    columns.topRows(n) = jacobian_.transpose();
    Vector wanted(n + m);
    wanted << -(gradient_ + box_.pull()), -slack_box_.pull();
    for (Index i = 0; i < m; ++i) columns(n + i, i) = rows_.is_equality(i) ? 0 : -1;
    multipliers_ = least_squares(columns, wanted);
    if (!(multipliers_.lpNorm<Eigen::Infinity>() <= largest)) multipliers_.setZero();
  }

  /// The error of the optimality conditions (equation 5).
  [[nodiscard]] double error(double barrier) const {
    constexpr double large = 100;
    const auto count = static_cast<double>(here.x.size() + 2 * rows_.size());
    const double pulls = multipliers_.lpNorm<1>() + box_.pull().lpNorm<1>() + slack_box_.pull().lpNorm<1>();
    const double size = std::max(large, pulls / count) / large;
    const Vector slack_slope = rows_.of_slacks(slack_box_.pull() - multipliers_);
    const Vector slope = gradient_ + jacobian_.transpose() * multipliers_ + box_.pull();
    return std::max({slope.lpNorm<Eigen::Infinity>() / size, slack_slope.lpNorm<Eigen::Infinity>() / size,
                     misfits_.lpNorm<Eigen::Infinity>(),
                     std::max(box_.misfit(here.x, barrier), slack_box_.misfit(slacks_, barrier)) / size});
  }

  // Equation 7.
  void lower_barrier() {
    constexpr double enough = 10, power = 1.5;
    while (barrier_ > least_barrier() && error(barrier_) <= enough * barrier_) {
      barrier_ = std::max(least_barrier(), std::min(settings_.shrink * barrier_, std::pow(barrier_, power)));
      filter_.clear();
    }
  }

  void find_curvature() {
    if (evaluate_.has_hessian()) {
      here.hessian(evaluate_, multipliers(), hessian_);
      hessian_ *= value_scale_;
    } else {
      hessian_ = damped_.matrix();
    }
  }

  /// Factors the system with slacks eliminated, shifted until it has as many positive pivots as variables and as many
  /// negative ones as rows (section 3.1).
  bool factor() {
    constexpr double first = 1e-4, least = 1e-20, most = 1e40;
    const Index n = here.x.size(), m = rows_.size();
    const SymmetricFactors::Inertia wanted{n, m, 0};
    const Vector own = box_.curvature(here.x);
    const Vector slack_curvature = slack_box_.curvature(slacks_);
    double row_shift = 0;
    shift_ = 0;
    for (int trial = 0; trial < 60; ++trial) {
      system_.setZero(n + m, n + m);
      system_.topLeftCorner(n, n) = hessian_;
      system_.diagonal().head(n) += own + Vector::Constant(n, shift_);
      system_.bottomLeftCorner(m, n) = jacobian_;
      slack_room_.setZero(m);
      for (Index i = 0; i < m; ++i) {
        if (!rows_.is_equality(i)) slack_room_[i] = 1 / std::max(slack_curvature[i] + shift_, 1e-300);
        system_(n + i, n + i) = rows_.is_equality(i) ? -row_shift : -slack_room_[i];
      }
      if (!system_.topLeftCorner(n, n).allFinite()) return false;
      factors_.compute(system_);
      if (factors_.inertia() == wanted) {
        if (shift_ > 0) last_shift_ = shift_;
        return true;
      }
      if (factors_.inertia().zero > 0 && row_shift == 0) {
        row_shift = 1e-8 * std::pow(barrier_, 0.25);
        if (trial > 0 || factors_.inertia().negative <= m) continue;
      }
      if (shift_ == 0)
        shift_ = last_shift_ == 0 ? first : std::max(least, last_shift_ / 3);
      else
        shift_ *= last_shift_ == 0 ? 100 : 8;
      if (shift_ > most) return false;
    }
    return false;
  }

  /// The Newton step for rows that miss by `misfits` (equations 11 and 13).
  [[nodiscard]] NewtonStep solve(const Vector& misfits) const {
    const Index n = here.x.size(), m = rows_.size();
    const Vector slack_slope = barrier_ * slack_box_.slope(slacks_) - multipliers_;
    Vector right(n + m);
    right.head(n) = -(gradient_ + jacobian_.transpose() * multipliers_ + barrier_ * box_.slope(here.x));
    right.tail(m) = -misfits - slack_room_.cwiseProduct(slack_slope);
    factors_.solve_in_place(right);
    NewtonStep step{.x = right.head(n), .slacks = {}, .multipliers = right.tail(m)};
    step.slacks = slack_room_.cwiseProduct(step.multipliers - slack_slope);
    return step;
  }

  /// A backtracking line search by the filter (algorithm A). False where the shortest step is still refused.
  bool search_along(const NewtonStep& step) {
    constexpr double violation_power = 1.1, value_power = 2.3, decrease = 1e-4, shortest_part = 0.05;
    const double part = std::max(0.99, 1 - barrier_);
    const double broken = violation(), from = barrier_value(here, slacks_);
    const double slope =
        (gradient_ + barrier_ * box_.slope(here.x)).dot(step.x) + barrier_ * slack_box_.slope(slacks_).dot(step.slacks);
    const double least_broken = 1e-4 * std::max(1.0, first_violation_);
    const double noise = 1e-13 * std::max(1.0, std::abs(from));
    const auto is_switching = [&](double alpha) {
      return slope < 0 && alpha * std::pow(-slope, value_power) > std::pow(broken, violation_power);
    };
    const auto is_good = [&](double alpha, double next_broken, double next) {
      if (!(next_broken <= 1e4 * std::max(1.0, first_violation_)) || !filter_.accepts(next_broken, next - noise))
        return false;
      if (broken <= least_broken && is_switching(alpha)) return next <= from + decrease * alpha * slope + noise;
      return next_broken <= (1 - Filter::margin) * broken || next <= from - Filter::margin * broken + noise;
    };
    double alpha = std::min(box_.longest(here.x, step.x, part), slack_box_.longest(slacks_, step.slacks, part));
    double shortest = Filter::margin;
    if (slope < 0) {
      shortest = std::min(shortest, Filter::margin * broken / -slope);
      if (broken <= least_broken)
        shortest = std::min(shortest, std::pow(broken, violation_power) / std::pow(-slope, value_power));
    }
    shortest = std::max(shortest_part * shortest, 1e-14);
    for (Index trial = 0; trial < settings_.trials && alpha >= shortest; ++trial, alpha *= 0.5) {
      const bool has_value = try_step(step, alpha);
      bool is_taken = has_value && is_good(alpha, next_misfits_.lpNorm<1>(), barrier_value(next_, next_slacks_));
      if (!is_taken && has_value && trial == 0 && next_misfits_.lpNorm<1>() >= broken && rows_.size() > 0)
        is_taken = corrects(alpha, part, is_good);
      if (!is_taken) continue;
      if (!(is_switching(alpha) && barrier_value(next_, next_slacks_) <= from + decrease * alpha * slope + noise))
        filter_.add(broken, from);
      length = alpha;
      take(step, alpha, part);
      return true;
    }
    return false;
  }

  bool try_step(const NewtonStep& step, double alpha) {
    next_slacks_ = slacks_ + alpha * step.slacks;
    if (!next_.evaluate_at(evaluate_, here.x + alpha * step.x)) return false;
    next_misfits_ = rows_.misfits(next_.rows, next_slacks_);
    return true;
  }

  /// Steps that add what the rows missed after the last one (section 2.4).
  template <class IsGood>
  bool corrects(double alpha, double part, const IsGood& is_good) {
    constexpr int most = 4;
    constexpr double enough = 0.99;
    double broken = violation();
    Vector misfits = alpha * misfits_ + next_misfits_;
    for (int k = 0; k < most; ++k) {
      const NewtonStep corrected = solve(misfits);
      const double longest =
          std::min(box_.longest(here.x, corrected.x, part), slack_box_.longest(slacks_, corrected.slacks, part));
      if (!corrected.x.allFinite() || !try_step(corrected, longest)) return false;
      const double now = next_misfits_.lpNorm<1>();
      if (is_good(alpha, now, barrier_value(next_, next_slacks_))) return true;
      if (now > enough * broken) return false;
      broken = now;
      misfits = longest * misfits + next_misfits_;
    }
    return false;
  }

  void take(const NewtonStep& step, double alpha, double part) {
    box_.move(here.x, step.x, barrier_, part);
    slack_box_.move(slacks_, step.slacks, barrier_, part);
    multipliers_ += alpha * step.multipliers;
    arrive();
  }

  /// `next_` becomes `here`.
  void arrive() {
    const Vector change = next_.x - here.x;
    const Vector before = here.gradient * value_scale_ + jacobian_.transpose() * multipliers_;
    can_go_on_ = next_.derive(evaluate_);
    std::swap(here, next_);
    slacks_ = next_slacks_;
    box_.keep_near(here.x, barrier_);
    slack_box_.keep_near(slacks_, barrier_);
    scale_derivatives();
    if (!evaluate_.has_hessian() && change.norm() > 1e-11 * (1 + here.x.norm()))
      damped_.update(change, gradient_ + jacobian_.transpose() * multipliers_ - before);
  }

  /// Lowers the squared misfits alone, by damped Gauss-Newton steps in units of the distances to the limits, until the
  /// filter takes the point (the feasibility restoration of section 3.3).
  void restore(std::string_view reason) {
    constexpr double enough = 0.9;
    const double broken = violation();
    if (broken <= 1e-10) {
      end(reason);
      return;
    }
    filter_.add(broken, barrier_value(here, slacks_));
    double damping = 1e-6, halfway = infinity;
    const Index most = 4 * settings_.trials;
    for (Index trial = 0; trial < most; ++trial) {
      if (trial == most / 2) halfway = misfits_.squaredNorm();
      const std::optional<NewtonStep> step = restoring_step(jacobian_, misfits_, box_.squared_room(here.x),
                                                            rows_.of_slacks(slack_box_.squared_room(slacks_)), damping);
      if (!step) break;
      const double alpha =
          std::min(box_.longest(here.x, step->x, 0.99), slack_box_.longest(slacks_, step->slacks, 0.99));
      if (!try_step(*step, alpha) || !(next_misfits_.squaredNorm() < (1 - 1e-6 * alpha) * misfits_.squaredNorm())) {
        damping *= 10;
        if (damping > 1e10) break;
        continue;
      }
      damping = std::max(damping / 10, 1e-12);
      length = alpha;
      arrive();
      if (!can_go_on_) return;
      if (violation() <= enough * broken && filter_.accepts(violation(), barrier_value(here, slacks_))) {
        box_.reset();
        slack_box_.reset();
        estimate_multipliers();
        return;
      }
    }
    // Lowered by next to nothing over so many steps, or by no step however short.
    const bool is_least = damping > 1e10 || misfits_.squaredNorm() > 0.99 * halfway;
    if (is_least && here.violation > evaluate_.feasibility())
      infeasible = no_less_broken;
    else
      end(reason);
  }

  /// Nothing more can be done: where the conditions hold to the last digits that is the end wanted.
  void end(std::string_view reason) {
    constexpr double nearly = 1e-7;
    if (here.violation > evaluate_.feasibility() &&
        is_least_broken(here, evaluate_.problem().constraints(), evaluate_.bounds()))
      infeasible = no_less_broken;
    else
      (error(0) <= nearly ? settled : stalled) = reason;
  }

  static constexpr std::string_view no_less_broken = "the constraints cannot be broken less from here";

  const InteriorPoint& settings_;
  Evaluator& evaluate_;
  ScaledRows rows_;
  Barrier box_, slack_box_;
  double barrier_;
  DampedModel damped_;
  Filter filter_;
  double value_scale_ = 1, first_violation_ = 0;
  bool can_go_on_ = true;

  Vector slacks_, multipliers_; ///< of the scaled rows
  Vector gradient_, misfits_;
  Matrix jacobian_, hessian_, system_;
  Vector slack_room_; ///< inverse curvature of the slacks
  SymmetricFactors factors_;
  double shift_ = 0, last_shift_ = 0;
  ConstrainedPoint next_;
  Vector next_slacks_, next_misfits_;
};

} // namespace

MethodCard InteriorPoint::card() {
  return {.title = "primal-dual interior point with a filter line search",
          .family = "constrained",
          .source = "Wächter and Biegler, 2006; factors: Bunch and Kaufman, 1977",
          .limits = "strictly within bounds at every evaluation; constraints in the limit, from any start",
          .summary = "Second derivatives, many limits at once, and few iterations; far from a limit as near to it.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void InteriorPoint::settings(Settings& list) {
  list.add("barrier", barrier).positive().means("the first barrier parameter");
  list.add("shrink", shrink).above(0).below(1).means("of the barrier parameter, once its problem is solved");
  list.add("accuracy", accuracy).positive().means("of the optimality conditions at the end, in scaled units");
  list.add("trials", trials).at_least(1).means("of a line search");
}

Search InteriorPoint::search(Evaluator& evaluate, Start start) const {
  InteriorWalk walk(*this, evaluate, std::move(start.point));
  for (;;) {
    walk.iterate();
    co_yield Iteration(walk.here.x, walk.here.value)
        .violation(walk.here.violation)
        .kkt(walk.kkt())
        .column("step", walk.length)
        .column("barrier", walk.barrier())
        .column("shift", walk.shift())
        .column("multiplier_norm", walk.multipliers().norm())
        .infeasible(walk.infeasible)
        .settled(walk.settled)
        .stalled(walk.stalled);
  }
}

} // namespace tanzen::methods
