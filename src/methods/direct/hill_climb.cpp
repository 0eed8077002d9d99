#include "tanzen/methods/direct/hill_climb.hpp"

#include <algorithm>

namespace tanzen::methods {

MethodCard HillClimb::card() {
  return {.title = "greedy search with random neighbours and a shrinking step",
          .family = "derivative-free",
          .source = "Matyas, 1965; Schumer and Steiglitz, 1968",
          .limits = "points outside are moved onto them",
          .summary = "The plainest search there is: what any other method has to beat.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void HillClimb::settings(Settings& list) {
  list.add("neighbours", neighbours)
      .at_least(1)
      .at_most(1e6)
      .unset_means("2 n, at least 8")
      .means("points tried at once");
  list.add("step", step).positive().means("first standard deviation, as a part of the region's width");
  list.add("shrink", shrink).above(0).below(1).means("factor of the step where no neighbour is better");
  list.add("collapse", collapse).positive().means("done when the step is below this");
}

Search HillClimb::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), count = neighbours.value_or(std::max<Index>(8, 2 * n));
  const Vector scale = evaluate.problem().sampling_box().width();
  Vector x = start.point, point(n), values(count);
  Matrix points(n, count);
  double value = start.value, deviation = step;
  for (;;) {
    for (Index k = 0; k < count; ++k) {
      start.random.fill_normal(point);
      point = x + deviation * scale.cwiseProduct(point);
      evaluate.bounds().project(point);
      points.col(k) = point;
    }
    evaluate.values(points, values);
    Index best = 0;
    const double found = values.minCoeff(&best);
    const bool is_better = found < value;
    if (is_better) {
      x = points.col(best);
      value = found;
    } else {
      deviation *= shrink;
    }
    Iteration now(x, value);
    now.population(points, values).column("step", deviation);
    if (deviation < collapse) now.settled("the step has become too short to matter");
    co_yield now;
  }
}

} // namespace tanzen::methods
