#include "tanzen/search/point_check.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/smoothness.hpp"
#include "tanzen/search/relative_gradient.hpp"

#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/signed_least_squares.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// A point that is looked at, with what the problem says there. Values and slopes are those to minimize.
class Look {
 public:
  Look(const Problem& problem, const Vector& x, const CheckOptions& options)
      : problem_(problem), x_(x), options_(options), sizes_(x.cwiseAbs().cwiseMax(problem.typical_sizes())) {}

  PointCheck check() {
    check_.violation = problem_.bounds().violation(x_);
    if (problem_.objectives().size() > 1) {
      check_.how = "several objectives: the front is the answer";
      return check_;
    }
    try {
      look();
    } catch (const std::exception& error) {
      check_.verdict = PointCheck::Verdict::unknown;
      check_.how = fmt::format("not checked: {}", error.what());
    }
    return check_;
  }

 private:
  void look() {
    if (problem_.constraints().empty()) {
      look_at_gradient();
    } else {
      look_at_constraints();
    }
    const bool is_differentiable = problem_.bundle()->derivatives() != Derivatives::none;
    const bool may_look = options_.by_values && (is_differentiable || options_.opaque) &&
                          problem_.constraints().empty() && x_.size() <= most_by_values;
    // At a kink a slope can be zero by its convention alone, and a jump has none: values must not contradict it.
    const bool has_kinks = problem_.expression() != nullptr && !is_smooth(problem_);
    if (check_.verdict == PointCheck::Verdict::stationary && may_look && has_kinks) {
      const std::string by_slope = check_.how;
      look_around();
      const bool is_contradicted = check_.verdict != PointCheck::Verdict::stationary;
      check_.how = is_contradicted ? fmt::format("no minimum: {}, but a value beside it is lower", by_slope) : by_slope;
    } else if (check_.verdict != PointCheck::Verdict::stationary && may_look) {
      // Without a kink the gradient alone decides: no pattern of values is as fine.
      const bool is_decided = gradient_.size() == x_.size() && gradient_.allFinite() && is_smooth(problem_);
      if (is_decided)
        look_at_digits();
      else
        look_around();
    }
    if (check_.verdict == PointCheck::Verdict::not_stationary) look_for_fall();
    if (check_.how.empty()) check_.how = "not checked: values only (--check-end)";
  }

  void tell(double relative) {
    check_.relative_gradient = relative;
    const bool is_small = relative <= options_.tolerance;
    check_.verdict = is_small ? PointCheck::Verdict::stationary : PointCheck::Verdict::not_stationary;
    check_.how = fmt::format("{}relative gradient {}", is_small ? "" : "not stationary: ", short_number(relative, 2));
  }

  [[nodiscard]] double relative(const Vector& slope) const {
    return relative_gradient(problem_, x_, slope, value_size_);
  }

  /// Of the value here, by what the run has changed it by.
  void measure_value() { value_size_ = value_size(value_, problem_.sign() * options_.start_value); }

  /// A run that begins beside its end changes next to nothing: what the value changes by along the typical size of a
  /// variable, by its curvature, says how large values are, too.
  void measure_by_curvature() {
    if (x_.size() > most_by_values || value_size_ >= 1) return;
    if (problem_.objective().derivatives() != Derivatives::hessian) return;
    Matrix hessian;
    problem_.objective().worker()->weighted_hessian(x_, Vector::Ones(1), hessian);
    const double bend = 0.5 * hessian.diagonal().cwiseAbs().dot(sizes_.cwiseAbs2());
    if (bend > value_size_) value_size_ = std::min(bend, 1.0);
  }

  void look_for_fall() {
    if (options_.start.size() != x_.size() || x_.size() > most_by_values) return;
    check_.fall = find_fall(problem_, x_, x_ - options_.start);
    if (!check_.fall && gradient_.size() == x_.size()) {
      const Vector down = -gradient_.cwiseProduct(sizes_.cwiseAbs2());
      check_.fall = find_fall(problem_, x_, sizes_.norm() / down.norm() * down);
    }
    if (!check_.fall) return;
    check_.evaluations += check_.fall->evaluations;
    check_.how += "; " + to_text(*check_.fall, problem_.sense());
  }

  void look_at_gradient() {
    if (problem_.objective().derivatives() == Derivatives::none) return;
    const auto worker = problem_.objective().worker();
    value_ = worker->gradient(x_, gradient_);
    if (!gradient_.allFinite()) {
      check_.how = "not stationary: the gradient is no number here";
      check_.verdict = PointCheck::Verdict::not_stationary;
      return;
    }
    gradient_ *= problem_.sign();
    value_ *= problem_.sign();
    const Bounds& bounds = problem_.bounds();
    measure_value();
    if (relative(gradient_) > options_.tolerance) measure_by_curvature();
    tell(relative(gradient_));
    if (!bounds.any()) return;
    check_.bound_multipliers.setZero(x_.size());
    for (Index i = 0; i < x_.size(); ++i) {
      if (x_[i] <= bounds.lower()[i] || x_[i] >= bounds.upper()[i])
        check_.bound_multipliers[i] = problem_.sign() * gradient_[i];
    }
  }

  /// Where the slope is not far above what counts as none, and Newton's step to a gradient of zero is as short as the
  /// coordinates' own rounding and worth nothing, no point is nearer.
  void look_at_digits() {
    constexpr double digits = 4 * std::numeric_limits<double>::epsilon(), worthless = 1e-10, most = 1e-4;
    if (!(check_.relative_gradient <= most)) return;
    Matrix hessian;
    problem_.objective().worker()->weighted_hessian(x_, Vector::Ones(1), hessian);
    const Vector step = least_squares(problem_.sign() * hessian, gradient_);
    const bool is_nearest = step.allFinite() && (step.array().abs() <= digits * x_.array().abs()).all();
    const double worth = 0.5 * std::abs(step.dot(gradient_));
    if (!is_nearest || !(worth <= worthless * value_size_)) return;
    check_.verdict = PointCheck::Verdict::stationary;
    check_.how =
        fmt::format("relative gradient {}, by the rounding of the point", short_number(check_.relative_gradient, 2));
  }

  // Values on a pattern: at a kink the gradient says nothing.
  void look_around() {
    const auto worker = problem_.objective().worker();
    const double sign = problem_.sign();
    const auto value_at = [&](const Vector& at) {
      ++check_.evaluations;
      return sign * worker->value(at);
    };
    value_ = value_at(x_);
    measure_value();
    if (value_size_ <
        1) { // a run that begins beside its end: a typical step of each variable says how large values are
      double change = 0;
      for (Index i = 0; i < x_.size(); ++i) {
        Vector at = x_;
        at[i] += sizes_[i];
        problem_.bounds().project(at);
        if (const double found = std::abs(value_at(at) - value_); std::isfinite(found))
          change = std::max(change, found);
      }
      value_size_ = std::max(value_size_, std::min(change, 1.0));
    }
    const double tolerance = options_.tolerance * value_size_;
    std::int64_t looked = 0;
    double worst = 0;
    const auto try_along = [&](const Vector& direction) {
      for (const double length : {1e-4, 1e-6, 1e-8}) {
        Vector at = x_ + length * direction.cwiseProduct(sizes_);
        problem_.bounds().project(at);
        const double moved = ((at - x_).cwiseQuotient(sizes_)).cwiseAbs().maxCoeff();
        if (moved == 0) continue;
        ++looked;
        // What rounding alone can lower is nothing.
        const double rounding = 1e-14 * (value_size_ + std::abs(value_));
        worst = std::max(worst, (value_ - value_at(at) - rounding) / moved);
      }
    };
    RandomStream random(1, {"point check"});
    Vector direction(x_.size());
    for (Index i = 0; i < x_.size(); ++i) {
      try_along(Vector::Unit(x_.size(), i));
      try_along(-Vector::Unit(x_.size(), i));
      random.fill_normal(direction);
      try_along(direction / direction.cwiseAbs().maxCoeff());
      try_along(-direction / direction.cwiseAbs().maxCoeff());
    }
    const auto try_down = [&](const Vector& down) {
      if (down.size() == x_.size() && down.allFinite() && !down.isZero(0)) try_along(down / down.cwiseAbs().maxCoeff());
    };
    if (gradient_.size() == x_.size()) try_down(-gradient_.cwiseProduct(sizes_));
    if (worst <= tolerance) try_down(way_down_from_kink(*worker, random));
    const bool is_low = worst <= tolerance;
    check_.verdict = is_low ? PointCheck::Verdict::stationary : PointCheck::Verdict::not_stationary;
    check_.how =
        is_low ? fmt::format("no lower value at {} around it", counted(looked, "point"))
               : fmt::format("not stationary: a point beside it is lower, by a slope of {}", short_number(worst, 2));
  }

  /// Against the shortest vector in the hull of gradients around the point, in units of the variables (Burke, Lewis and
  /// Overton, 2005, section 2): where functions meet it goes along their edge, which no fixed pattern finds. Empty of
  /// a function without derivatives.
  [[nodiscard]] Vector way_down_from_kink(FunctionWorker& worker, RandomStream& random) {
    constexpr double radius = 1e-7;
    constexpr Index most_samples = 120;
    if (problem_.objective().derivatives() == Derivatives::none) return {};
    const Index n = x_.size(), samples = std::min(2 * n + 2, most_samples);
    Matrix columns(n, samples);
    Vector direction(n), gradient;
    for (Index k = 0; k < samples; ++k) {
      if (k % 2 == 0) random.fill_normal(direction);
      const double side = k % 2 == 0 ? radius : -radius;
      Vector at = x_ + side / direction.cwiseAbs().maxCoeff() * direction.cwiseProduct(sizes_);
      problem_.bounds().project(at);
      (void)worker.gradient(at, gradient);
      ++check_.evaluations;
      if (!gradient.allFinite()) return {};
      columns.col(k) = problem_.sign() * gradient.cwiseProduct(sizes_);
    }
    return -columns * shortest_hull_weights(columns);
  }

  /// Values of all rows, which of them are active, and what their multipliers are.
  void look_at_constraints() {
    const auto worker = problem_.bundle()->worker();
    Vector parts;
    worker->outputs(x_, parts);
    const Evaluation at(parts, problem_.parts());
    const auto values = at.constraints();
    for (std::size_t k = 0; k < problem_.constraints().size(); ++k)
      check_.constraints.push_back(state_of(problem_.constraints()[k], values[static_cast<Index>(k)]));
    const double broken = violation_of(problem_.constraints(), values);
    if (std::isnan(broken)) {
      check_.violation = broken;
      check_.verdict = PointCheck::Verdict::not_stationary;
      check_.how = "not feasible: a constraint has no value here";
      return;
    }
    check_.violation = std::max(check_.violation, broken);
    if (problem_.bundle()->derivatives() == Derivatives::none || x_.size() > most_with_multipliers) {
      for (ConstraintState& state : check_.constraints) state.multiplier = state.active ? not_known : 0;
      return;
    }
    const auto& objective = problem_.scalarization();
    value_ = problem_.sign() * objective->value(at);
    measure_value();
    Matrix jacobian;
    worker->jacobian(x_, jacobian);
    Vector slopes(parts.size());
    objective->slopes(at, slopes);
    gradient_ = problem_.sign() * (jacobian.transpose() * slopes);
    find_multipliers(jacobian.middleRows(problem_.parts().objectives, problem_.parts().constraints));
  }

  [[nodiscard]] ConstraintState state_of(const Constraint& row, double value) const {
    ConstraintState state{row.name, value, row.lower, row.upper};
    state.slack = std::min(value - row.lower, row.upper - value);
    const double limit = value - row.lower < row.upper - value ? row.lower : row.upper;
    state.active = row.is_equality() || state.slack <= options_.feasibility * (1 + std::abs(limit));
    return state;
  }

  void find_multipliers(const Matrix& rows) {
    std::vector<MultiplierSign> signs;
    std::vector<Index> places; ///< of rows; of variables after them
    std::vector<Vector> columns;
    for (Index k = 0; k < rows.rows(); ++k) {
      const ConstraintState& state = check_.constraints[static_cast<std::size_t>(k)];
      if (!state.active) continue;
      const bool at_lower = state.value - state.lower < state.upper - state.value;
      signs.push_back(state.lower == state.upper ? MultiplierSign::free
                      : at_lower                 ? MultiplierSign::nonnegative
                                                 : MultiplierSign::nonpositive);
      places.push_back(k);
      columns.push_back(rows.row(k));
    }
    const std::size_t row_count = places.size();
    const Bounds& bounds = problem_.bounds();
    for (Index i = 0; i < x_.size(); ++i) {
      const double near = 1e-9 * sizes_[i];
      const bool at_lower = x_[i] <= bounds.lower()[i] + near, at_upper = x_[i] >= bounds.upper()[i] - near;
      if (!at_lower && !at_upper) continue;
      signs.push_back(at_lower && at_upper ? MultiplierSign::free
                      : at_lower           ? MultiplierSign::nonnegative
                                           : MultiplierSign::nonpositive);
      places.push_back(i);
      columns.push_back(Vector::Unit(x_.size(), i));
    }
    Matrix all(x_.size(), static_cast<Index>(columns.size()));
    for (std::size_t k = 0; k < columns.size(); ++k) all.col(static_cast<Index>(k)) = columns[k];
    const Vector y = signed_least_squares(all, gradient_, signs);
    const Vector rest = gradient_ - all * y;
    if (bounds.any()) check_.bound_multipliers.setZero(x_.size());
    double complementarity = 0;
    for (std::size_t k = 0; k < places.size(); ++k) {
      const double multiplier = problem_.sign() * y[static_cast<Index>(k)] + 0.0; // no zero below zero
      if (k >= row_count) {
        check_.bound_multipliers[places[k]] = multiplier;
        continue;
      }
      ConstraintState& state = check_.constraints[static_cast<std::size_t>(places[k])];
      state.multiplier = multiplier;
      if (state.lower != state.upper) complementarity = std::max(complementarity, std::abs(multiplier * state.slack));
    }
    const Vector projected = (x_ - rest).cwiseMax(bounds.lower()).cwiseMin(bounds.upper()) - x_;
    check_.kkt = std::max({projected.cwiseAbs().maxCoeff(), check_.violation, complementarity});
    tell(relative(rest));
    check_.how += fmt::format(", KKT residual {}", short_number(check_.kkt, 2));
    if (check_.violation <= options_.feasibility) return;
    check_.verdict = PointCheck::Verdict::not_stationary;
    check_.how = fmt::format("not feasible: violation {}", short_number(check_.violation, 2));
  }

  static constexpr Index most_by_values = 200, most_with_multipliers = 2000;

  const Problem problem_;
  const Vector& x_;
  CheckOptions options_;
  Vector sizes_;                              ///< of the variables at the point
  double value_ = not_known, value_size_ = 1; ///< to be minimized
  Vector gradient_;
  PointCheck check_;
};

} // namespace

PointCheck check_point(const Problem& problem, const Vector& x, const CheckOptions& options) {
  return Look(problem.unheard().exact(), x, options).check();
}

std::string_view verdict_word(PointCheck::Verdict verdict) {
  switch (verdict) {
  case PointCheck::Verdict::stationary: return "stationary";
  case PointCheck::Verdict::not_stationary: return "not stationary";
  case PointCheck::Verdict::unknown: break;
  }
  return "unknown";
}

} // namespace tanzen
