#include "tanzen/methods/fit/gauss_newton.hpp"

#include "tanzen/methods/line/line_search.hpp"

#include "damped_step.hpp"
#include "residual_model.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {

MethodCard GaussNewton::card() {
  return {.title = "Gauss and Newton's method with a line search",
          .family = "fit",
          .source = "Gauss, 1809; Nocedal and Wright, 2006, section 10.3; line search: Armijo, 1966",
          .limits = "the step is over the parameters that are free, and projected onto the bounds",
          .summary = "Fits with small residuals from a start that is near; to be compared with levenberg-marquardt, "
                     "which is surer.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true, .residuals = true}};
}

void GaussNewton::settings(Settings& list) {
  list.add("decrease", decrease).above(0).below(0.5).means("part of the predicted fall to reach");
  list.add("trials", trials).at_least(1).means("of a line search");
  list.add("tolerance", tolerance).positive().below(1).means("of the sum's fall and of the step, relative");
}

Search GaussNewton::search(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  const Index n = start.point.size();
  Vector x = start.point, trial(n), step(n), free_step;
  Matrix columns;
  std::vector<Index> free;
  ResidualModel model(evaluate);
  DampedStep whole;
  const Evaluation* at = &evaluate.at(x);
  double value = at->value, length = 0;
  const FitSlopes slopes(evaluate, value);
  model.take(x, *at);
  for (;;) {
    find_free(x, model.gradient(), bounds, free);
    model.copy_columns(free, columns);
    step.setZero();
    if (!free.empty()) {
      whole.factor(columns, model.residuals());
      whole.solve(Vector::Ones(static_cast<Index>(free.size())), std::numeric_limits<double>::infinity(), free_step);
      step(free) = free_step;
    }
    std::string_view settled = free.empty() ? "every parameter is held by a bound" : std::string_view(), stalled;
    const double size = 1e-300 + x.norm();
    if (settled.empty() && !(step.norm() > tolerance * size)) settled = "the step has become too short to matter";
    length = 1;
    bool is_lower = false;
    for (Index k = 0; k < trials && settled.empty() && !is_lower; ++k) {
      trial = x + length * step;
      bounds.project(trial);
      const double predicted = model.gradient().dot(trial - x); // negative
      at = &evaluate.at(trial);
      is_lower = at->value <= value + decrease * predicted && at->value < value;
      // Of the whole step alone: a short one predicts next to nothing wherever it is.
      if (k == 0 && std::abs(value - at->value) <= tolerance * value && std::abs(predicted) <= tolerance * value)
        settled = "the sum no longer falls";
      if (is_lower) break;
      const double parabola = -0.5 * predicted / (at->value - value - predicted);
      length *= std::isfinite(parabola) ? std::clamp(parabola, 0.1, 0.5) : 0.1;
    }
    if (is_lower) {
      value = at->value;
      x = trial;
      model.take(x, *at);
    } else if (settled.empty()) {
      stalled = no_lower_value;
    }
    co_yield slopes.tell(Iteration(x, value), model.gradient())
        .column("step", is_lower ? length : 0)
        .settled(settled)
        .stalled(stalled);
  }
}

} // namespace tanzen::methods
