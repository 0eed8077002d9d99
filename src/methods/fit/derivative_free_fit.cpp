#include "tanzen/methods/fit/derivative_free_fit.hpp"

#include "../direct/linear_simplex.hpp"
#include "damped_step.hpp"
#include "residual_model.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {
namespace {

/// The paper's algorithm; the names of its numbers are the paper's.
class SimplexFit {
 public:
  SimplexFit(Evaluator& evaluate, const Start& start, double radius, double collapse)
      : evaluate_(evaluate), n_(start.point.size()), count_(evaluate.part_counts().residuals),
        scale_(evaluate.problem().typical_sizes()), least_(evaluate.bounds().lower().cwiseQuotient(scale_)),
        most_(evaluate.bounds().upper().cwiseQuotient(scale_)), delta_(radius), rho_(radius),
        last_rho_(collapse * radius), simplex_(n_, count_) {
    for (const double width : most_ - least_)
      if (width > 0) rho_ = delta_ = std::min(rho_, 0.5 * width);
    last_rho_ = std::min(last_rho_, rho_);
    sample(start.point);
  }

  std::string_view settled, stalled;

  /// One evaluation, or a smaller radius.
  void iterate() {
    put_best_first();
    simplex_.measure();
    look_around();
    const Vector step = bounded_step();
    const double promised = fall_of(step);
    if (step.norm() < 0.5 * rho_ || !(promised > 0)) {
      delta_ = std::max(rho_, 0.1 * delta_);
      if (!improve(rho_)) shrink();
      return;
    }
    const Vector point = simplex_.points.col(0) + step;
    const double value = value_at(point);
    const double ratio = (simplex_.values[0] - value) / promised, length = step.norm();
    if (!(ratio >= 0.1))
      delta_ = std::max(std::min(0.5 * delta_, length), rho_);
    else if (ratio < 0.7)
      delta_ = std::max({0.5 * delta_, length, rho_});
    else
      delta_ = std::min(std::max(2 * delta_, 4 * length), 1e10);
    const bool is_better = value < simplex_.values[0];
    if (std::isfinite(value)) simplex_.replace_measured(dispensable(step), point, value, residuals_);
    if (ratio >= 0.1) return;
    if (is_better) {
      put_best_first();
      simplex_.measure();
    }
    if (!improve(delta_) && delta_ <= rho_ && !is_better) shrink();
  }

  [[nodiscard]] const Vector& best_point() {
    to_plain(simplex_.points.col(0));
    return x_;
  }
  [[nodiscard]] double best_value() const { return simplex_.values[0]; }
  [[nodiscard]] double radius() const { return delta_; }
  [[nodiscard]] double least_distance() const { return rho_; }

 private:
  void to_plain(const Vector& scaled) {
    x_ = scaled.cwiseProduct(scale_);
    evaluate_.bounds().project(x_); // rounding alone could leave them
  }
  double value_at(const Vector& scaled) {
    to_plain(scaled);
    const Evaluation& at = evaluate_.at(x_);
    residuals_ = at.residuals();
    return residuals_.allFinite() ? at.value : std::numeric_limits<double>::infinity();
  }

  /// Points along the coordinates; where there is no value on one side, on the other, or nearer.
  void sample(const Vector& start) {
    const Vector first = start.cwiseQuotient(scale_);
    const double value = value_at(first);
    if (!std::isfinite(value)) stalled = "the model is no number at the start";
    simplex_.rows.setZero();
    simplex_.values.setConstant(std::numeric_limits<double>::infinity());
    simplex_.points.colwise() = first;
    simplex_.replace(0, first, value, residuals_);
    constexpr int most_tries = 12;
    for (Index k = 1; k <= n_ && stalled.empty(); ++k) {
      const bool has_room = most_[k - 1] > least_[k - 1];
      double side = first[k - 1] + rho_ > most_[k - 1] && has_room ? -rho_ : rho_;
      for (int tries = 0;; ++tries) {
        Vector point = first;
        point[k - 1] += side;
        const double found = value_at(point);
        if (std::isfinite(found)) {
          simplex_.replace(k, point, found, residuals_);
          break;
        }
        if (tries == most_tries) {
          stalled = "the model is no number around the start";
          break;
        }
        const bool fits = first[k - 1] - side >= least_[k - 1] && first[k - 1] - side <= most_[k - 1];
        side = tries % 2 == 0 && fits ? -side : 0.5 * side;
      }
    }
  }

  void put_best_first() {
    Index best = 0;
    (void)simplex_.values.minCoeff(&best);
    simplex_.put_first_measured(best);
  }

  /// The linear models at the best point, weighted as the loss wants it.
  void look_around() {
    Vector parts = Vector::Zero(evaluate_.part_counts().all());
    parts.tail(count_) = simplex_.rows.col(0);
    residual_weights(evaluate_, Evaluation(parts, evaluate_.part_counts()), weights_);
    slopes_ = weights_.asDiagonal() * simplex_.jacobian();
    target_ = weights_.cwiseProduct(simplex_.rows.col(0));
  }
  [[nodiscard]] double fall_of(const Vector& step) const {
    return target_.squaredNorm() - (target_ + slopes_ * step).squaredNorm();
  }

  /// The step of the models within the radius; variables that it would push out of their bounds go to them, and the
  /// rest is solved anew.
  [[nodiscard]] Vector bounded_step() const {
    const Vector lower = (least_ - simplex_.points.col(0)).cwiseMin(0.0);
    const Vector upper = (most_ - simplex_.points.col(0)).cwiseMax(0.0);
    Vector step = Vector::Zero(n_);
    std::vector<Index> free;
    const Vector slope = slopes_.transpose() * target_;
    for (Index i = 0; i < n_; ++i) {
      const bool is_held = (lower[i] == 0 && slope[i] >= 0) || (upper[i] == 0 && slope[i] <= 0);
      if (!is_held) free.push_back(i);
    }
    while (!free.empty()) {
      Matrix columns = slopes_(Eigen::all, free);
      const Vector rest = target_ + slopes_ * step;
      const double room = std::sqrt(std::max(0.0, delta_ * delta_ - step.squaredNorm()));
      if (!(room > 0)) break;
      DampedStep rule;
      rule.factor(columns, rest);
      Vector part;
      rule.solve(Vector::Ones(static_cast<Index>(free.size())), room, part);
      if (const double length = part.norm(); length > room) part *= room / length;
      std::vector<Index> left;
      for (std::size_t k = 0; k < free.size(); ++k) {
        const Index i = free[k];
        const double wanted = part[static_cast<Index>(k)];
        if (wanted > lower[i] && wanted < upper[i])
          left.push_back(i);
        else
          step[i] = std::clamp(wanted, lower[i], upper[i]);
      }
      if (left.size() == free.size()) {
        for (std::size_t k = 0; k < free.size(); ++k) step[free[k]] = part[static_cast<Index>(k)];
        break;
      }
      free = left;
    }
    return step;
  }

  /// The point whose place a new one takes: far away, or not missed by the models (Powell, 2009, equation 4.6).
  [[nodiscard]] Index dispensable(const Vector& step) const {
    Index chosen = 1;
    double most = -1;
    for (Index k = 1; k <= n_; ++k) {
      const double away = (simplex_.points.col(k) - simplex_.points.col(0) - step).norm() / std::max(delta_, rho_);
      const double weight = std::abs(simplex_.coefficients(k).dot(step)) * std::max(1.0, std::pow(away, 4));
      if (weight > most) {
        most = weight;
        chosen = k;
      }
    }
    return chosen;
  }

  /// Moves the farthest point to where the models miss it, within `reach`; false where none is far.
  bool improve(double reach) {
    Index far = 1;
    for (Index k = 2; k <= n_; ++k)
      if (simplex_.edge(k) > simplex_.edge(far)) far = k;
    bool is_thin = false;
    if (simplex_.edge(far) <= std::max(2 * reach, 2 * rho_)) {
      for (Index k = 1; k <= n_; ++k)
        if (simplex_.height(k) < simplex_.height(far)) far = k;
      is_thin = simplex_.height(far) < 0.1 * rho_;
      if (!is_thin) return false;
    }
    const double length = std::max(std::min(0.1 * simplex_.edge(far), 0.5 * reach), rho_);
    const Vector lower = (least_ - simplex_.points.col(0)).cwiseMin(0.0);
    const Vector upper = (most_ - simplex_.points.col(0)).cwiseMax(0.0);
    const Vector across = simplex_.coefficients(far).normalized().transpose();
    Vector best;
    double best_part = 0, best_fall = 0;
    for (const double side : {1.0, -1.0}) {
      const Vector step = (side * length * across).cwiseMax(lower).cwiseMin(upper);
      const double part = std::abs(step.dot(across)) / length, fall = fall_of(step);
      const bool is_better = part >= 0.5 && best_part >= 0.5 ? fall > best_fall : part > best_part;
      if (best.size() > 0 && !is_better) continue;
      best = step;
      best_part = part;
      best_fall = fall;
    }
    const Vector point = simplex_.points.col(0) + best;
    const double value = value_at(point);
    if (!std::isfinite(value)) return false;
    simplex_.replace_measured(far, point, value, residuals_);
    return true;
  }

  void shrink() {
    if (rho_ <= last_rho_) {
      settled = "the smallest distance of the points has been searched";
      return;
    }
    delta_ = 0.5 * rho_;
    rho_ = std::max(0.1 * rho_, last_rho_);
    delta_ = std::max(delta_, rho_);
  }

  Evaluator& evaluate_;
  Index n_, count_;
  Vector scale_, least_, most_;
  double delta_, rho_, last_rho_;
  LinearSimplex simplex_; ///< rows are the residuals
  Matrix slopes_;
  Vector weights_, target_, residuals_, x_;
};

} // namespace

MethodCard DerivativeFreeFit::card() {
  return {.title = "linear models of the residuals within a trust region, without derivatives",
          .family = "fit",
          .source = "Cartis, Fiala, Marteau and Roberts, 2019, algorithm 1; geometry: Powell, 2009",
          .limits = "bounds at every evaluation",
          .summary = "Fits whose model is a program or a black box, at a few evaluations for each parameter.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .residuals = true}};
}

void DerivativeFreeFit::settings(Settings& list) {
  list.add("radius", radius).positive().means("first trust region, in the parameters' typical sizes");
  list.add("collapse", collapse).positive().at_most(1).means("done when the points' distance has come down to this");
}

Search DerivativeFreeFit::search(Evaluator& evaluate, Start start) const {
  SimplexFit walk(evaluate, start, radius, collapse);
  for (;;) {
    if (walk.stalled.empty()) walk.iterate();
    co_yield Iteration(walk.best_point(), walk.best_value())
        .column("radius", walk.radius())
        .column("least_distance", walk.least_distance())
        .settled(walk.settled)
        .stalled(walk.stalled);
  }
}

} // namespace tanzen::methods
