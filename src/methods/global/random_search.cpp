#include "tanzen/methods/global/random_search.hpp"

#include <algorithm>

namespace tanzen::methods {

MethodCard RandomSearch::card() {
  return {.title = "uniform random points of the region",
          .family = "global",
          .source = "Brooks, 1958",
          .limits = "points are drawn from the region within them",
          .summary = "What every other method has to beat, and a first look at what values there are.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void RandomSearch::settings(Settings& list) {
  list.add("sample", sample).at_least(1).at_most(1e6).means("points an iteration");
}

Search RandomSearch::search(Evaluator& evaluate, Start start) const {
  constexpr int most_equal = 20; // samples without two values that differ
  const Box box = evaluate.problem().sampling_box();
  Matrix points(start.point.size(), sample);
  Vector values(sample), best = start.point;
  double best_value = start.value;
  int equal = 0;
  for (;;) {
    for (Index k = 0; k < sample; ++k) {
      for (Index j = 0; j < best.size(); ++j) points(j, k) = start.random.uniform(box.lower[j], box.upper[j]);
    }
    evaluate.values(points, values);
    Index k = 0;
    const bool is_flat = values.maxCoeff() == best_value && values.minCoeff(&k) == best_value;
    equal = is_flat ? equal + 1 : 0;
    if (values.minCoeff(&k) < best_value) {
      best_value = values[k];
      best = points.col(k);
    }
    Iteration now(best, best_value);
    now.population(points, values);
    if (equal >= most_equal) now.settled("all values are the same");
    co_yield now;
  }
}

} // namespace tanzen::methods
