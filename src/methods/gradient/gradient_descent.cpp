#include "tanzen/methods/gradient/gradient_descent.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/methods/line/armijo_step.hpp"
#include "tanzen/methods/line/line_search.hpp"
#include "tanzen/methods/line/ray_minimum.hpp"

#include "mini_batches.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen::methods {
namespace {

constexpr std::string_view no_descent = "the projected gradient is zero: there is no way down from here";

} // namespace

MethodCard GradientDescent::card() {
  return {.title = "steepest descent with a choice of step rules",
          .family = "gradient",
          .source = "Cauchy, 1847; exact, backtracking and Wolfe steps: Nocedal and Wright, 2006, chapter 3; two-point "
                    "steps: Barzilai and Borwein, 1988, safeguarded: Raydan, 1997; Polyak, 1969; projection: "
                    "Bertsekas, 1976",
          .limits = "each step is projected onto them; an exact step ends at the first one it meets",
          .summary = "The plainest use of a gradient. A fixed step is stable below 2 divided by the largest curvature; "
                     "convergence is linear and slow where curvatures differ much.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true}};
}

void GradientDescent::settings(Settings& list) {
  list.add("rule", rule,
           {{"fixed", Rule::fixed},
            {"exact", Rule::exact},
            {"backtracking", Rule::backtracking},
            {"wolfe", Rule::wolfe},
            {"barzilai-borwein-long", Rule::bb_long},
            {"barzilai-borwein-short", Rule::bb_short},
            {"polyak", Rule::polyak}})
      .means("how the step along the negative gradient is chosen");
  schedule.settings(list);
  list.add("shrink", shrink).above(0).below(1).means("backtracking: each trial's step divided by the one before");
  list.add("decrease", decrease).above(0).below(0.5).means("part of the predicted decrease to reach");
  list.add("curvature", curvature).above(0).below(1).means("wolfe: part of the slope that may be left");
  list.add("memory", memory).at_least(1).means("barzilai-borwein: values that the decrease is measured against");
  MiniBatches::settings(list, batch);
  list.add("best", best).means("polyak: the best value").unset_means("that of the problem");
}

Search GradientDescent::search(Evaluator& evaluate, Start start) const {
  if (batch && rule != Rule::fixed)
    throw InputError(
        "gradient-descent takes batches with rule=fixed alone: a search along a line needs the whole value");
  if (batch) return search_by_batches(evaluate, std::move(start));
  switch (rule) {
  case Rule::exact:
  case Rule::wolfe: return search_along_rays(evaluate, std::move(start));
  case Rule::backtracking: return search_backtracking(evaluate, std::move(start));
  case Rule::bb_long:
  case Rule::bb_short: return search_with_two_points(evaluate, std::move(start));
  case Rule::polyak: return search_to_best_value(evaluate, std::move(start));
  case Rule::fixed: break;
  }
  return search_fixed(evaluate, std::move(start));
}

Search GradientDescent::search_fixed(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  const bool bounded = bounds.any();
  Vector x = start.point;
  const Vector& g = evaluate.gradient(x); // always the latest gradient: nothing is copied
  for (double t = 0;; ++t) {
    const double step = schedule.at(t);
    x -= step * g;
    if (bounded) bounds.project(x);
    const double value = evaluate.value_and_gradient(x).value;
    Iteration now(x, value);
    if (bounded)
      now.gradient(g, bounds);
    else
      now.gradient(g);
    co_yield now.column("step", step);
  }
}

Search GradientDescent::search_by_batches(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  MiniBatches batches(evaluate, *batch, start.random);
  Vector x = start.point;
  for (double t = 0;;) {
    batches.begin_epoch();
    double step = 0;
    for (Index k = 0; k < batches.count(); ++k, ++t) {
      step = schedule.at(t);
      x -= step * batches.gradient(x, k);
      bounds.project(x);
    }
    co_yield Iteration(x, evaluate(x)).column("step", step).column("epoch", batches.epoch());
  }
}

Search GradientDescent::search_along_rays(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  const auto line_search = make_line_search(
      {.rule = rule == Rule::exact ? LineRule::exact : LineRule::wolfe, .decrease = decrease, .curvature = curvature});
  Vector x = start.point;
  Vector g = evaluate.gradient(x);
  Vector direction(x.size());
  double value = start.value;
  double trial = schedule.step;
  for (;;) {
    direction = -g;
    stay_feasible(bounds, x, direction);
    const double slope = g.dot(direction);
    if (!(slope < 0)) {
      co_yield Iteration(x, value).gradient(direction).column("step", 0).settled(no_descent);
      continue;
    }
    const double longest = longest_feasible_step(bounds, x, direction);
    const LineStep found = line_search->find(evaluate, x, value, direction, slope, trial, longest);
    if (found.step == 0) {
      co_yield Iteration(x, value).gradient(direction).column("step", 0).stalled(no_lower_value);
      continue;
    }
    x.swap(line_search->point);
    g = evaluate.last_gradient();
    value = found.value;
    trial = found.step;
    co_yield Iteration(x, value)
        .gradient(g, bounds)
        .column("step", found.step)
        .column("trials", static_cast<double>(found.trials));
  }
}

Search GradientDescent::search_with_two_points(Evaluator& evaluate, Start start) const {
  constexpr double shortest = 1e-30, longest = 1e30;
  const Bounds& bounds = evaluate.bounds();
  ArmijoSearch line_search;
  ReferenceValue reference(memory);
  Vector x = start.point;
  Vector g = evaluate.gradient(x), direction(x.size()), s(x.size()), y(x.size());
  double value = start.value, trial = schedule.step;
  for (;;) {
    reference.note(value);
    direction = -g;
    const LineStep found = line_search.find(evaluate, x, reference.largest(), g, direction, trial,
                                            {.decrease = decrease, .shrink = shrink});
    if (found.step == 0) {
      co_yield Iteration(x, value).gradient(g, bounds).column("step", 0).stalled(no_lower_value);
      continue;
    }
    s = line_search.point - x;
    x.swap(line_search.point);
    value = found.value;
    y = evaluate.gradient(x) - g;
    g = evaluate.last_gradient();
    const double curved = s.dot(y);
    const double two_point = rule == Rule::bb_long ? s.squaredNorm() / curved : curved / y.squaredNorm();
    trial = curved > 0 ? std::clamp(two_point, shortest, longest) : 10 * found.step;
    co_yield Iteration(x, value)
        .gradient(g, bounds)
        .column("step", found.step)
        .column("trials", static_cast<double>(found.trials));
  }
}

Search GradientDescent::search_to_best_value(Evaluator& evaluate, Start start) const {
  const Problem& problem = evaluate.problem();
  const auto known = best ? best : problem.best_known();
  if (!known) {
    throw ProblemError(
        fmt::format("the polyak rule needs the best value, and that of {} is not known: set best=...", problem.name()));
  }
  const double lowest = problem.sign() * *known;
  const Bounds& bounds = evaluate.bounds();
  Vector x = start.point;
  double value = start.value;
  const Vector& g = evaluate.gradient(x);
  for (;;) {
    const double squared = g.squaredNorm();
    const double step = squared > 0 ? std::max(0.0, value - lowest) / squared : 0;
    x -= step * g;
    bounds.project(x);
    value = evaluate.value_and_gradient(x).value;
    co_yield Iteration(x, value)
        .gradient(g, bounds)
        .column("step", step)
        .settled(step == 0 ? "the best value is reached" : std::string_view());
  }
}

Search GradientDescent::search_backtracking(Evaluator& evaluate, Start start) const {
  constexpr Index most_trials = 60;
  const Bounds& bounds = evaluate.bounds();
  Vector x = start.point;
  Vector g = evaluate.gradient(x);
  Vector next(x.size());
  double value = start.value;
  double trial = schedule.step;
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
      co_yield Iteration(x, value)
          .gradient(g, bounds)
          .column("step", 0)
          .column("trials", static_cast<double>(trials))
          .stalled("no step lowers the value any more");
      continue;
    }
    x = next;
    value = next_value;
    g = evaluate.gradient(x);
    co_yield Iteration(x, value)
        .gradient(g, bounds)
        .column("step", trial)
        .column("trials", static_cast<double>(trials));
    if (trials == 1) trial /= shrink; // the first trial was good enough: dare a longer one
  }
}

} // namespace tanzen::methods
