#include "tanzen/methods/fit/levenberg_marquardt.hpp"

#include "damped_step.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// The least-squares model of the loss around a point: rows and residuals weighted so that squares have its slopes.
class Model {
 public:
  explicit Model(Evaluator& evaluate) : evaluate_(evaluate), count_(evaluate.part_counts().residuals) {}

  /// Takes the model at `x`, whose parts are at hand. Cost: one Jacobian.
  void take(const Vector& x, const Evaluation& at) {
    parts_ = at.parts();
    by_part_.resize(parts_.size());
    const Evaluation kept(parts_, evaluate_.part_counts());
    evaluate_.scalarization().slopes(kept, by_part_);
    residuals_ = parts_.tail(count_);
    weights_.resize(count_);
    const auto slopes = by_part_.tail(count_);
    for (Index k = 0; k < count_; ++k) weights_[k] = residuals_[k] == 0 ? 1 : slopes[k] / (2 * residuals_[k]);
    (void)evaluate_.jacobian(x, &parts_);
    gradient_ = evaluate_.residual_rows().transpose() * slopes;
    weights_ = weights_.cwiseMax(0).cwiseSqrt();
    residuals_.array() *= weights_.array();
    rows_ = evaluate_.residual_rows();
    rows_.array().colwise() *= weights_.array();
  }

  [[nodiscard]] const Vector& gradient() const { return gradient_; }
  [[nodiscard]] const Vector& residuals() const { return residuals_; }
  [[nodiscard]] Vector column_norms() const { return rows_.colwise().norm(); }
  /// What the model promises of a step: how much the sum falls.
  [[nodiscard]] double promised(const Vector& step) {
    change_.noalias() = rows_ * step;
    return -(2 * residuals_.dot(change_) + change_.squaredNorm());
  }
  /// The columns of the variables that are free, to be overwritten.
  void copy_columns(const std::vector<Index>& free, Matrix& columns) const { columns = rows_(Eigen::all, free); }

 private:
  Evaluator& evaluate_;
  Index count_;
  Vector parts_, by_part_, weights_, residuals_, gradient_, change_;
  Matrix rows_;
};

/// The variables that may move: not those that sit on a bound with the slope pushing outward.
void find_free(const Vector& x, const Vector& gradient, const Bounds& bounds, std::vector<Index>& free) {
  free.clear();
  for (Index i = 0; i < x.size(); ++i) {
    const bool is_held =
        (x[i] <= bounds.lower()[i] && gradient[i] >= 0) || (x[i] >= bounds.upper()[i] && gradient[i] <= 0);
    if (!is_held) free.push_back(i);
  }
}

/// The radius after a trial that kept `ratio` of what was promised (Moré, 1978, algorithm 7.1, step d).
double next_radius(double radius, double ratio, double length) {
  if (ratio <= 0.25 || std::isnan(ratio)) return 0.25 * std::min(radius, length);
  return ratio >= 0.75 ? std::max(radius, 2 * length) : radius;
}

} // namespace

MethodCard LevenbergMarquardt::card() {
  return {.title = "Levenberg and Marquardt's method",
          .family = "fit",
          .source = "Levenberg, 1944; Marquardt, 1963; Moré, 1978",
          .limits = "the step is over the parameters that are free, and projected onto the bounds",
          .summary = "The first choice for fitting a model to data: sums of squares, or of another loss, of residuals.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true, .residuals = true}};
}

void LevenbergMarquardt::settings(Settings& list) {
  list.add("factor", factor).positive().means("of the first radius, in units of the scaled start");
  list.add("tolerance", tolerance).positive().below(1).means("of the sum's fall and of the radius, relative");
}

Search LevenbergMarquardt::search(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  const Index n = start.point.size();
  Vector x = start.point, trial(n), step(n), free_step, scale = Vector::Zero(n), free_scale;
  Matrix columns;
  std::vector<Index> free;
  Model model(evaluate);
  DampedStep damped;
  const Evaluation* at = &evaluate.at(x);
  double value = at->value, radius = 0;
  model.take(x, *at);
  for (;;) {
    scale = scale.cwiseMax(model.column_norms());
    const Vector units = scale.unaryExpr([](double s) { return s > 0 ? s : 1.0; });
    if (radius == 0) {
      const double length = units.cwiseProduct(x).norm();
      radius = length > 0 ? factor * length : factor;
    }
    find_free(x, model.gradient(), bounds, free);
    model.copy_columns(free, columns);
    if (!free.empty()) damped.factor(columns, model.residuals());
    std::string_view end = free.empty() ? "every parameter is held by a bound" : std::string_view();
    double ratio = 0;
    while (end.empty()) {
      free_scale = units(free);
      damped.solve(free_scale, radius, free_step);
      step.setZero();
      step(free) = free_step;
      trial = x + step;
      bounds.project(trial);
      step = trial - x;
      const double length = units.cwiseProduct(step).norm(), promised = model.promised(step);
      if (length <= tolerance * units.cwiseProduct(x).norm() || radius <= tolerance * units.cwiseProduct(x).norm()) {
        end = "the step has become too short to matter";
        break;
      }
      at = &evaluate.at(trial);
      ratio = (value - at->value) / promised;
      if (std::abs(value - at->value) <= tolerance * value && promised <= tolerance * value && ratio <= 2)
        end = "the sum no longer falls";
      radius = next_radius(radius, ratio, length);
      if (at->value < value) {
        value = at->value;
        x = trial;
        model.take(x, *at);
        break;
      }
    }
    const double slope = bounds.projected_gradient_norm(x, model.gradient());
    co_yield Iteration(x, value)
        .gradient_norm(slope)
        .column("radius", radius)
        .column("damping", damped.multiplier())
        .column("ratio", std::isfinite(ratio) ? ratio : 0)
        .settled(end);
  }
}

} // namespace tanzen::methods
