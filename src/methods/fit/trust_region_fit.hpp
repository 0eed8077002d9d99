#pragma once

#include "residual_model.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

/// The radius after a trial that kept `ratio` of what was promised (Moré, 1978, algorithm 7.1, step d).
inline double next_radius(double radius, double ratio, double length) {
  if (ratio <= 0.25 || std::isnan(ratio)) return 0.25 * std::min(radius, length);
  return ratio >= 0.75 ? std::max(radius, 2 * length) : radius;
}

/// A trust region in the scaled parameters around the least-squares model (Moré, 1978, algorithm 7.1). `Step` finds the
/// step: it has `factor(rows, residuals)`, `solve(scale, radius, step)`, and a `column` that it tells by `told()`.
template <class Step>
Search trust_region_fit(Evaluator& evaluate, Start start, double factor, double tolerance) {
  const Bounds& bounds = evaluate.bounds();
  const Index n = start.point.size();
  Vector x = start.point, trial(n), step(n), free_step, scale = Vector::Zero(n), free_scale;
  Matrix columns;
  std::vector<Index> free;
  ResidualModel model(evaluate);
  Step rule;
  const Evaluation* at = &evaluate.at(x);
  double value = at->value, radius = 0;
  const FitSlopes slopes(evaluate, value);
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
    if (!free.empty()) rule.factor(columns, model.residuals());
    std::string_view end = free.empty() ? "every parameter is held by a bound" : std::string_view();
    double ratio = 0;
    while (end.empty()) {
      free_scale = units(free);
      rule.solve(free_scale, radius, free_step);
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
    co_yield slopes.tell(Iteration(x, value), model.gradient())
        .column("radius", radius)
        .column(Step::column, rule.told())
        .column("ratio", std::isfinite(ratio) ? ratio : 0)
        .settled(end);
  }
}

} // namespace tanzen::methods
