#include "tanzen/methods/constrained/linear_model.hpp"

#include "tanzen/methods/direct/region_scale.hpp"
#include "tanzen/search/standing.hpp"

#include "../direct/linear_simplex.hpp"
#include "linear_step.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// Powell's algorithm; the names of its numbers are the paper's.
class LinearSearch {
 public:
  LinearSearch(Evaluator& evaluate, const Start& start, double radius, double least_radius)
      : evaluate_(evaluate), limits_(evaluate.problem().constraints()), n_(start.point.size()),
        scale_(region_scale(evaluate.problem().sampling_box())),
        least_(evaluate.bounds().lower().cwiseQuotient(scale_)), most_(evaluate.bounds().upper().cwiseQuotient(scale_)),
        rho_(radius), simplex_(n_, static_cast<Index>(limits_.size())), x_(n_), point_(n_),
        row_values_(simplex_.rows.rows()) {
    const Vector room = most_ - least_;
    for (const double width : room)
      if (width > 0) rho_ = std::min(rho_, 0.5 * width);
    first_rho_ = rho_;
    last_rho_ = std::min(least_radius, rho_);
    sample(start.point);
  }

  std::string_view settled, infeasible, stalled;

  /// One evaluation, or a smaller radius.
  void iterate() {
    choose_best();
    simplex_.measure();
    const bool is_well_shaped = well_shaped();
    if (wants_shape_ && !is_well_shaped) {
      improve_shape();
      wants_shape_ = false;
      return;
    }
    look_around();
    const Vector step = linear_step(pieces_, rho_);
    if (is_least_broken(step)) {
      infeasible = least_broken;
      return;
    }
    const bool is_short = step.norm() < 0.5 * rho_;
    if (is_short || !try_step(step)) {
      wants_shape_ = !is_well_shaped;
      if (is_well_shaped) tighten(step);
    }
  }

  [[nodiscard]] const Vector& best_point() {
    to_plain(simplex_.points.col(0));
    return x_;
  }
  [[nodiscard]] double best_value() const { return simplex_.values[0]; }
  [[nodiscard]] double violation() const { return violation_of(0); }
  [[nodiscard]] double radius() const { return rho_; }
  [[nodiscard]] double price() const { return price_; }

 private:
  template <class Point>
  void to_plain(const Point& scaled) {
    x_ = scaled.cwiseProduct(scale_);
    evaluate_.bounds().project(x_); // rounding alone could leave them
  }

  /// Fills `row_values_`; where there is no value, the point stands as worse than all others, with the best one's rows.
  double value_at(const Vector& scaled) {
    to_plain(scaled);
    const Evaluation& at = evaluate_.at(x_);
    row_values_ = at.constraints();
    if (std::isfinite(at.value) && row_values_.allFinite()) {
      worst_ = std::isfinite(worst_) ? std::max(worst_, at.value) : at.value;
      return at.value;
    }
    row_values_ = simplex_.rows.col(0);
    return std::isfinite(worst_) ? worst_ + std::abs(worst_) + 1 : 1e10;
  }

  void sample(const Vector& start) {
    simplex_.rows.setZero();
    for (Index k = 0; k <= n_; ++k) {
      point_ = start.cwiseQuotient(scale_);
      if (k > 0) point_[k - 1] += point_[k - 1] + rho_ > most_[k - 1] && most_[k - 1] > least_[k - 1] ? -rho_ : rho_;
      const double value = value_at(point_);
      simplex_.replace(k, point_, value, row_values_);
    }
  }

  [[nodiscard]] double violation_of(Index k) const {
    return tanzen::violation_of(limits_, VectorView(simplex_.rows.col(k).data(), simplex_.rows.rows()));
  }
  [[nodiscard]] double merit_of(Index k) const { return simplex_.values[k] + price_ * violation_of(k); }

  /// The best by the merit comes first; of those that are alike, the one that is broken less. Whether it is another.
  bool choose_best() {
    Index best = 0;
    for (Index k = 1; k <= n_; ++k) {
      const double one = merit_of(k), other = merit_of(best);
      if (one < other || (one == other && price_ == 0 && violation_of(k) < violation_of(best))) best = k;
    }
    simplex_.put_first(best);
    return best != 0;
  }

  [[nodiscard]] bool well_shaped() const {
    for (Index k = 1; k <= n_; ++k)
      if (!(simplex_.height(k) >= alpha * rho_) || simplex_.edge(k) > beta * rho_) return false;
    return true;
  }

  /// The linear models at the best point, and what is left to the limits from there.
  void look_around() {
    pieces_.gradient = simplex_.gradient();
    pieces_.rows = simplex_.jacobian();
    const Index m = simplex_.rows.rows();
    pieces_.lower.resize(m);
    pieces_.upper.resize(m);
    for (Index i = 0; i < m; ++i) {
      pieces_.lower[i] = limits_[static_cast<std::size_t>(i)].lower - simplex_.rows(i, 0);
      pieces_.upper[i] = limits_[static_cast<std::size_t>(i)].upper - simplex_.rows(i, 0);
    }
    pieces_.least = (least_ - simplex_.points.col(0)).cwiseMin(0.0);
    pieces_.most = (most_ - simplex_.points.col(0)).cwiseMax(0.0);
  }

  /// Moves the point that is too far, or too near the plane of the others, to the side where the models are better.
  void improve_shape() {
    constexpr double gamma = 0.5;
    Index chosen = 1;
    for (Index k = 2; k <= n_; ++k)
      if (simplex_.edge(k) > simplex_.edge(chosen)) chosen = k;
    if (simplex_.edge(chosen) <= beta * rho_) {
      for (Index k = 1; k <= n_; ++k)
        if (simplex_.height(k) < simplex_.height(chosen)) chosen = k;
    }
    const Vector across = simplex_.coefficients(chosen).normalized().transpose();
    look_around();
    Vector best;
    double best_merit = 0, best_part = 0;
    for (const double side : {gamma, -gamma}) {
      const Vector step = (side * rho_ * across).cwiseMax(pieces_.least).cwiseMin(pieces_.most);
      const double part = std::abs(step.dot(across)) / (gamma * rho_); // the bounds may have cut it
      const double merit = pieces_.gradient.dot(step) + price_ * pieces_.violation(step);
      const bool is_better = part >= 0.5 && best_part >= 0.5 ? merit < best_merit : part > best_part;
      if (best.size() > 0 && !is_better) continue;
      best = step;
      best_merit = merit;
      best_part = part;
    }
    point_ = simplex_.points.col(0) + best;
    const double value = value_at(point_);
    simplex_.replace(chosen, point_, value, row_values_);
  }

  /// Whether the step did what the models promise, to a tenth at least.
  bool try_step(const Vector& step) {
    const double rise = pieces_.gradient.dot(step);
    const double kept = pieces_.violation(Vector::Zero(n_)) - pieces_.violation(step);
    // The merit must fall along the step (the paper's equation 13).
    if (kept > 0 && price_ < 1.5 * rise / kept) {
      price_ = 2 * rise / kept;
      if (choose_best()) return true; // another point is where to begin
    }
    point_ = simplex_.points.col(0) + step;
    const double promised = price_ * kept - rise, before = merit_of(0);
    const double value = value_at(point_);
    const double broken = tanzen::violation_of(limits_, VectorView(row_values_.data(), row_values_.size()));
    const double fall = before - (value + price_ * broken);
    const Index dropped = most_dispensable(step, fall > 0);
    if (dropped > 0) simplex_.replace(dropped, point_, value, row_values_);
    return dropped > 0 && fall > 0 && fall >= 0.1 * promised;
  }

  /// The point whose place the new one takes: one that is far away, or that keeps the simplex large; 0 for none.
  [[nodiscard]] Index most_dispensable(const Vector& step, bool is_better) const {
    constexpr double delta = 1.1;
    Index chosen = 0;
    double most = is_better ? 0 : 1;
    Vector volume(n_ + 1);
    for (Index k = 1; k <= n_; ++k) {
      volume[k] = std::abs(simplex_.coefficients(k).dot(step));
      if (volume[k] > most) {
        most = volume[k];
        chosen = k;
      }
    }
    double farthest = delta * rho_;
    Index far = 0;
    for (Index k = 1; k <= n_; ++k) {
      const double height = volume[k] * simplex_.height(k);
      if (height < alpha * rho_ && height < simplex_.height(k)) continue;
      const double away = is_better ? (simplex_.points.col(k) - point_).norm() : simplex_.edge(k);
      if (away > farthest) {
        farthest = away;
        far = k;
      }
    }
    return far > 0 ? far : chosen;
  }

  /// The next smaller radius, and a price that is not larger than the rows' and the values' ranges explain.
  void tighten(const Vector& step) {
    if (rho_ <= last_rho_) {
      end(step);
      return;
    }
    rho_ *= 0.5;
    if (rho_ <= 1.5 * last_rho_) rho_ = last_rho_;
    if (price_ == 0) return;
    double least_range = std::numeric_limits<double>::infinity();
    for (Index i = 0; i < simplex_.rows.rows(); ++i) {
      const Constraint& row = limits_[static_cast<std::size_t>(i)];
      const double low = simplex_.rows.row(i).minCoeff(), high = simplex_.rows.row(i).maxCoeff();
      for (const auto& [worst, best] :
           {std::pair{low - row.lower, high - row.lower}, {row.upper - high, row.upper - low}})
        if (std::isfinite(worst) && worst < 0.5 * best)
          least_range = std::min(least_range, std::max(best, 0.0) - worst);
    }
    const double range = simplex_.values.maxCoeff() - simplex_.values.minCoeff();
    if (std::isinf(least_range))
      price_ = 0;
    else if (range < price_ * least_range)
      price_ = range / least_range;
  }

  void end(const Vector& step) {
    const double broken = violation();
    if (broken <= evaluate_.feasibility())
      settled = "the smallest trust region has been searched";
    else if (pieces_.violation(step) >= 0.5 * broken)
      infeasible = least_broken;
    else
      stalled = "the smallest trust region has been searched, and constraints are still broken";
  }

  /// Whether, once the radius is small, the models of what is broken are flat: their slopes would not mend it within a
  /// thousand regions.
  [[nodiscard]] bool is_least_broken(const Vector& step) const {
    constexpr double flat = 1e-3;
    const double broken = violation();
    return broken > evaluate_.feasibility() && rho_ <= flat * first_rho_ &&
           broken - pieces_.violation(step) <= flat * rho_ * broken;
  }

  static constexpr double alpha = 0.25, beta = 2.1; ///< of the radius: least heights and longest edges
  static constexpr std::string_view least_broken =
      "the constraints cannot be broken less from here, by their linear models";

  Evaluator& evaluate_;
  const std::vector<Constraint>& limits_;
  Index n_;
  Vector scale_, least_, most_;
  double rho_, first_rho_ = 0, last_rho_ = 0;
  double price_ = 0; ///< mu: of a unit of the largest violation
  LinearSimplex simplex_;
  LinearPieces pieces_;
  Vector x_, point_, row_values_;
  double worst_ = std::numeric_limits<double>::quiet_NaN();
  bool wants_shape_ = false;
};

} // namespace

MethodCard LinearModel::card() {
  return {.title = "linear models of objective and constraints within a trust region",
          .family = "constrained",
          .source = "Powell, 1994",
          .limits = "bounds at every evaluation; constraints in the limit, from any start",
          .summary = "Constraints without derivatives, few variables, and a rough answer soon.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void LinearModel::settings(Settings& list) {
  list.add("radius", radius).positive().at_most(1).means("first trust region, as a part of the region's width");
  list.add("collapse", collapse).positive().at_most(1).means("done when the radius has come down to this");
}

Search LinearModel::search(Evaluator& evaluate, Start start) const {
  LinearSearch walk(evaluate, start, radius, collapse);
  for (;;) {
    walk.iterate();
    co_yield Iteration(walk.best_point(), walk.best_value())
        .violation(walk.violation())
        .column("radius", walk.radius())
        .column("price", walk.price())
        .infeasible(walk.infeasible)
        .settled(walk.settled)
        .stalled(walk.stalled);
  }
}

} // namespace tanzen::methods
