#include "tanzen/methods/gradient/gradient_descent.hpp"

#include "tanzen/methods/line/ray_minimum.hpp"

namespace tanzen::methods {
namespace {

constexpr std::string_view no_descent = "the projected gradient is zero: there is no way down from here";

} // namespace

MethodCard GradientDescent::card() {
  return {.title = "steepest descent with a choice of step rules",
          .family = "gradient",
          .source = "Cauchy, 1847; exact and backtracking steps: Nocedal and Wright, 2006, chapter 3; projection: "
                    "Bertsekas, 1976",
          .bounds = "each step is projected onto them; an exact step ends at the first one it meets",
          .summary = "The plainest use of a gradient. A fixed step is stable below 2 divided by the largest curvature; "
                     "convergence is linear and slow where curvatures differ much.",
          .needs = Derivatives::gradient};
}

void GradientDescent::settings(Settings& list) {
  list.add("rule", rule, {{"fixed", Rule::fixed}, {"exact", Rule::exact}, {"backtracking", Rule::backtracking}})
      .means("how the step along the negative gradient is chosen");
  list.add("step", step).positive().means("the fixed step, or the first trial of the other rules");
  list.add("shrink", shrink).above(0).below(1).means("backtracking: each trial's step divided by the one before");
  list.add("decrease", decrease).above(0).below(1).means("backtracking: part of the predicted decrease to reach");
}

Search GradientDescent::search(Evaluator& evaluate, Start start) const {
  switch (rule) {
  case Rule::exact: return search_exact(evaluate, std::move(start));
  case Rule::backtracking: return search_backtracking(evaluate, std::move(start));
  case Rule::fixed: break;
  }
  return search_fixed(evaluate, std::move(start));
}

Search GradientDescent::search_fixed(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  const bool bounded = bounds.any();
  Vector x = start.point;
  const Vector& g = evaluate.gradient(x); // always the latest gradient: nothing is copied
  for (;;) {
    x -= step * g;
    if (bounded) bounds.project(x);
    const double value = evaluate.value_and_gradient(x).value;
    const double norm = bounded ? bounds.projected_gradient_norm(x, g) : g.norm();
    co_yield Iteration(x, value).gradient_norm(norm).column("step", step);
  }
}

Search GradientDescent::search_exact(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  RaySearch ray;
  Vector x = start.point;
  Vector g = evaluate.gradient(x);
  Vector direction(x.size());
  double value = start.value;
  double trial = step;
  for (;;) {
    direction = -g;
    stay_feasible(bounds, x, direction);
    const double slope = g.dot(direction);
    if (!(slope < 0)) {
      co_yield Iteration(x, value).gradient_norm(direction.norm()).column("step", 0).finished(no_descent);
      continue;
    }
    const double longest = longest_feasible_step(bounds, x, direction);
    const RayMinimum minimum = ray.minimize(evaluate, x, value, direction, slope, trial, longest);
    x = ray.point;
    g = ray.gradient;
    value = minimum.value;
    trial = minimum.step;
    co_yield Iteration(x, value)
        .gradient_norm(bounds.projected_gradient_norm(x, g))
        .column("step", minimum.step)
        .column("trials", static_cast<double>(minimum.trials));
  }
}

Search GradientDescent::search_backtracking(Evaluator& evaluate, Start start) const {
  constexpr Index most_trials = 60;
  const Bounds& bounds = evaluate.bounds();
  Vector x = start.point;
  Vector g = evaluate.gradient(x);
  Vector next(x.size());
  double value = start.value;
  double trial = step;
  for (;;) {
    Index trials = 0;
    double next_value = value;
    bool enough = false;
    for (; trials < most_trials && !enough; ++trials) {
      if (trials > 0) trial *= shrink;
      next = x - trial * g;
      bounds.project(next);
      next_value = evaluate(next);
      enough = next_value <= value - decrease * g.dot(x - next) && std::isfinite(next_value);
    }
    if (!enough || next == x) {
      const double norm = bounds.projected_gradient_norm(x, g);
      co_yield Iteration(x, value)
          .gradient_norm(norm)
          .column("step", 0)
          .column("trials", static_cast<double>(trials))
          .finished("no step lowers the value any more");
      continue;
    }
    x = next;
    value = next_value;
    g = evaluate.gradient(x);
    co_yield Iteration(x, value)
        .gradient_norm(bounds.projected_gradient_norm(x, g))
        .column("step", trial)
        .column("trials", static_cast<double>(trials));
    if (trials == 1) trial /= shrink; // the first trial was good enough: dare a longer one
  }
}

} // namespace tanzen::methods
