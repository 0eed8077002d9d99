#include "tanzen/methods/fit/variable_projection.hpp"

#include "damped_step.hpp"
#include "residual_model.hpp"
#include "trust_region_fit.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace tanzen::methods {
namespace {

/// The parameters that are linear and have no bounds; the rest.
struct Parts {
  std::vector<Index> linear, other;

  explicit Parts(const Evaluator& evaluate) {
    const Bounds& bounds = evaluate.bounds();
    const std::vector<Index> found = evaluate.problem().linear_variables();
    for (Index i = 0; i < evaluate.dimension(); ++i) {
      const bool is_open = std::isinf(bounds.lower()[i]) && std::isinf(bounds.upper()[i]);
      const bool is_linear = is_open && std::ranges::find(found, i) != found.end();
      (is_linear ? linear : other).push_back(i);
    }
  }
};

/// The residuals where the other parameters are, as a linear function of the linear ones, and where those fit best.
class Projection {
 public:
  Projection(Evaluator& evaluate, const Parts& parts)
      : evaluate_(evaluate), parts_(parts), count_(evaluate.part_counts().residuals) {}

  /// Takes the visit `at` of `x`, and puts the linear parameters of `x` where they fit best. Cost: one Jacobian.
  /// False where something there is no number.
  bool take(Vector& x, const Evaluation& at) {
    residuals_ = at.parts();
    reduced_ = at.value;
    if (parts_.linear.empty()) return residuals_.allFinite();
    gather(x, parts_.linear, columns_);
    if (!columns_.allFinite() || !residuals_.allFinite()) return false;
    constexpr int most_rounds = 20; // of weighting; squares need one
    for (int round = 0; round < most_rounds; ++round) {
      weigh();
      rows_ = weights_.asDiagonal() * columns_;
      factors_.compute(rows_);
      const Vector change = factors_.solve(-weights_.cwiseProduct(residuals_.tail(count_)));
      const Vector before = residuals_;
      residuals_.tail(count_) += columns_ * change;
      const double value = value_of_residuals();
      const double fall = reduced_ - value;
      if (!(fall >= 0)) residuals_ = before; // at the last digit, or of a loss that no weights follow
      if (!(fall >= 0)) break;
      x(parts_.linear) += change;
      reduced_ = value;
      if (fall <= 1e-14 * value) break;
    }
    return true;
  }

  /// Takes the model of the others around `x`, which `take` has left; Cost: one Jacobian.
  void turn(const Vector& x) {
    weigh();
    gather(x, parts_.other, slopes_);
    gradient_.setZero(x.size());
    slopes_ = weights_.asDiagonal() * slopes_;
    target_ = weights_.cwiseProduct(residuals_.tail(count_));
    gradient_(parts_.other) = 2 * slopes_.transpose() * target_;
    if (parts_.linear.empty()) return;
    rows_ = weights_.asDiagonal() * columns_;
    factors_.compute(rows_);
    // What the linear parameters make up for is left out (Kaufman, 1975, equation 2.3).
    projected_ = slopes_;
    factors_.leave_out(projected_);
    factors_.leave_out(target_);
  }
  /// How the linear parameters follow a step of the others, by the model.
  [[nodiscard]] Vector follow(const Vector& step) const { return factors_.solve(-(slopes_ * step)); }

  /// Rows and residuals over the others, with the linear ones where they fit best.
  [[nodiscard]] const Matrix& rows() const { return parts_.linear.empty() ? slopes_ : projected_; }
  [[nodiscard]] const Vector& target() const { return target_; }
  /// By all parameters; zero by the linear ones.
  [[nodiscard]] const Vector& gradient() const { return gradient_; }
  /// The sum at the point that `take` made.
  [[nodiscard]] double reduced() const { return reduced_; }

 private:
  void gather(const Vector& x, const std::vector<Index>& which, Matrix& columns) {
    columns.resize(count_, static_cast<Index>(which.size()));
    evaluate_.visit_residual_rows(x, residuals_, [&](Index first, const Matrix& rows) {
      columns.middleRows(first, rows.rows()) = rows(Eigen::all, which);
    });
  }
  [[nodiscard]] double value_of_residuals() const {
    return evaluate_.scalarization().value(Evaluation(residuals_, evaluate_.part_counts()));
  }
  /// Weights with which squares have the loss' slopes.
  void weigh() { residual_weights(evaluate_, Evaluation(residuals_, evaluate_.part_counts()), weights_); }

  Evaluator& evaluate_;
  const Parts& parts_;
  Index count_;
  Vector residuals_; ///< all parts
  Vector weights_, target_, gradient_;
  Matrix columns_, rows_, slopes_, projected_;
  PivotedFactors factors_;
  double reduced_ = 0;
};

} // namespace

MethodCard VariableProjection::card() {
  return {.title = "variable projection: linear parameters are fitted at each step",
          .family = "fit",
          .source = "Golub and Pereyra, 1973; Kaufman, 1975; radius and scale: Moré, 1978",
          .limits = "the step is over the parameters that are free, and projected onto the bounds",
          .summary =
              "Fits of sums of terms, each with a factor: exponentials, peaks, waves; needs no guess of the factors.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true, .residuals = true}};
}

Search VariableProjection::search(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  const Parts parts(evaluate);
  Projection one(evaluate, parts), other(evaluate, parts);
  Projection *here = &one, *there = &other; // where the search is, and where it tries
  Vector x = start.point, visited = x, trial(x.size()), step, free_step, scale;
  Matrix columns;
  std::vector<Index> free;
  DampedStep rule;
  const Evaluation* at = &evaluate.at(x);
  double value = at->value, radius = 0;
  const FitSlopes slopes(evaluate, value);
  std::string_view end;
  if (!here->take(x, *at)) end = "the model is no number at the start";
  here->turn(x);
  scale = Vector::Zero(static_cast<Index>(parts.other.size()));
  for (;;) {
    scale = scale.cwiseMax(here->rows().colwise().norm().transpose());
    const Vector units = scale.unaryExpr([](double s) { return s > 0 ? s : 1.0; });
    const double size = units.cwiseProduct(x(parts.other)).norm();
    if (radius == 0) radius = size > 0 ? factor * size : factor;
    find_free(x, here->gradient(), bounds, free);
    std::erase_if(free, [&](Index i) { return std::ranges::find(parts.other, i) == parts.other.end(); });
    for (Index& i : free) i = std::ranges::find(parts.other, i) - parts.other.begin();
    if (free.empty() && end.empty())
      end = parts.other.empty() ? "every parameter is linear, and fitted" : "every other parameter is held by a bound";
    columns = here->rows()(Eigen::all, free);
    if (!free.empty()) rule.factor(columns, here->target());
    double ratio = 0;
    while (end.empty()) {
      rule.solve(units(free), radius, free_step);
      step.setZero(units.size());
      step(free) = free_step;
      trial = x;
      trial(parts.other) += step;
      bounds.project(trial);
      step = trial(parts.other) - x(parts.other);
      const Vector change = here->rows() * step;
      const double length = units.cwiseProduct(step).norm();
      const double promised = -(2 * here->target().dot(change) + change.squaredNorm());
      if (length <= tolerance * size || radius <= tolerance * size) {
        end = "the step has become too short to matter";
        break;
      }
      if (!parts.linear.empty()) trial(parts.linear) += here->follow(step);
      at = &evaluate.at(trial);
      const Vector asked = trial;
      const double asked_value = at->value;
      const bool is_number = there->take(trial, *at);
      const double before = here->reduced(),
                   after = is_number ? there->reduced() : std::numeric_limits<double>::infinity();
      ratio = (before - after) / promised;
      if (std::abs(before - after) <= tolerance * before && promised <= tolerance * before && ratio <= 2)
        end = "the sum no longer falls";
      radius = next_radius(radius, ratio, length);
      if (after < before) {
        std::swap(here, there);
        x = trial;
        visited = asked;
        value = asked_value;
        here->turn(x);
        break;
      }
    }
    // Within rounding the last visit was where the linear parameters fit best.
    if (!end.empty() && value - here->reduced() > 1e-14 * value) {
      visited = x;
      value = evaluate(x);
    }
    co_yield slopes.tell(Iteration(visited, value), here->gradient())
        .column("radius", radius)
        .column(DampedStep::column, rule.told())
        .column("reduced", here->reduced())
        .column("ratio", std::isfinite(ratio) ? ratio : 0)
        .settled(end);
  }
}

} // namespace tanzen::methods
