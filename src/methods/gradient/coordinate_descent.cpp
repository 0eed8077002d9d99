#include "tanzen/methods/gradient/coordinate_descent.hpp"

#include "tanzen/methods/line/ray_minimum.hpp"

namespace tanzen::methods {

MethodCard CoordinateDescent::card() {
  return {.title = "exact minimization along one coordinate after another",
          .family = "gradient",
          .source = "Wright, 2015, algorithm 1; greedy order: Nutini et al., 2015",
          .limits = "each line search ends at the bound it meets",
          .summary =
              "Solves a separable function in one sweep, and crawls along a valley that is no coordinate's. It can "
              "stop at a kink that is no minimum.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true}};
}

void CoordinateDescent::settings(Settings& list) {
  list.add("order", order, {{"cyclic", Order::cyclic}, {"greedy", Order::greedy}})
      .means("all coordinates in turn, or the one with the steepest slope");
}

Search CoordinateDescent::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Bounds& bounds = evaluate.bounds();
  RaySearch ray;
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), direction = Vector::Zero(n), steps = Vector::Constant(n, 1);
  double value = start.value;
  for (;;) {
    bool any = false;
    const Index moves = order == Order::cyclic ? n : 1;
    for (Index k = 0; k < moves; ++k) {
      Index i = k;
      if (order == Order::greedy) {
        direction = -g;
        stay_feasible(bounds, x, direction);
        direction.cwiseAbs().maxCoeff(&i);
        direction.setZero();
      }
      direction[i] = g[i] > 0 ? -1 : 1;
      const double slope = -std::abs(g[i]);
      const double longest = longest_feasible_step(bounds, x, direction);
      if (slope < 0 && longest > 0) {
        const RayMinimum minimum = ray.minimize(evaluate, x, value, direction, slope, steps[i], longest);
        if (minimum.value <= value && minimum.step > 0 && ray.point != x) {
          x.swap(ray.point);
          g = ray.gradient;
          value = minimum.value;
          steps[i] = minimum.step;
          any = true;
        }
      }
      direction[i] = 0;
    }
    co_yield Iteration(x, value)
        .gradient(g, bounds)
        .column("moves", static_cast<double>(moves))
        .settled(any ? std::string_view() : "no coordinate lowers the value any more");
  }
}

} // namespace tanzen::methods
