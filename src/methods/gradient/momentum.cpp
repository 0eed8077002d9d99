#include "tanzen/methods/gradient/momentum.hpp"

namespace tanzen::methods {

MethodCard Momentum::card() {
  return {.title = "steepest descent with momentum",
          .family = "gradient",
          .source = "Polyak, 1964",
          .limits = "each step is projected onto them",
          .summary =
              "The heavy ball: momentum carries the path along a valley that steepest descent crosses to and fro. "
              "On a quadratic the best momentum follows from the condition number.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true}};
}

void Momentum::settings(Settings& list) {
  schedule.settings(list);
  list.add("momentum", momentum).at_least(0).below(1).means("part of the last step that is added to the next");
}

Search Momentum::search(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  Vector x = std::move(start.point);
  Vector velocity = Vector::Zero(x.size()), before = x;
  const Vector& g = evaluate.gradient(x);
  for (double t = 0;; ++t) {
    const double step = schedule.at(t);
    velocity = momentum * velocity - step * g;
    before = x;
    x += velocity;
    bounds.project(x);
    velocity = x - before; // what a bound stopped is no momentum
    const double value = evaluate.value_and_gradient(x).value;
    co_yield Iteration(x, value).gradient(g, bounds).column("step", step).column("momentum_norm", velocity.norm());
  }
}

MethodCard Nesterov::card() {
  return {.title = "accelerated gradient descent",
          .family = "gradient",
          .source = "Nesterov, 1983; restart: O'Donoghue and Candès, 2015",
          .limits = "each step is projected onto them",
          .summary =
              "The best rate that gradients alone can promise on convex functions, with a fixed step below 1 divided "
              "by the largest curvature.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true}};
}

void Nesterov::settings(Settings& list) {
  schedule.settings(list);
  list.add("restart", restart).means("begin anew where the momentum points uphill");
}

Search Nesterov::search(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  Vector x = std::move(start.point);
  Vector before = x, ahead = x, move(x.size());
  double theta = 1;
  for (double t = 0;; ++t) {
    const Vector& g = evaluate.gradient(ahead);
    const double step = schedule.at(t);
    const double norm = bounds.projected_gradient_norm(ahead, g);
    before = x;
    x = ahead - step * g;
    bounds.project(x);
    const double value = evaluate(x);
    move = x - before;
    if (restart && g.dot(move) > 0) theta = 1;
    const double next_theta = 0.5 * (1 + std::sqrt(1 + 4 * theta * theta));
    ahead = x + (theta - 1) / next_theta * move;
    bounds.project(ahead);
    theta = next_theta;
    co_yield Iteration(x, value).gradient_norm(norm).column("step", step).column("momentum_norm", (ahead - x).norm());
  }
}

} // namespace tanzen::methods
