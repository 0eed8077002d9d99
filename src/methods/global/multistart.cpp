#include "tanzen/methods/global/multistart.hpp"

#include "tanzen/numeric/sampling.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

bool probably_all_found(std::int64_t searches, std::int64_t minima) {
  const auto s = static_cast<double>(searches), w = static_cast<double>(minima);
  return s > w + 2 && w * (s - 1) / (s - w - 2) < w + 0.5;
}

void note_minimum(Evaluator& evaluate, const Vector& point, double value) {
  if (std::isfinite(value) && evaluate.problem().region().contains(point)) evaluate.found_minimum(point, value);
}

MethodCard Multistart::card() {
  return {.title = "a local method from many random starts",
          .family = "global",
          .source = "stopping rule: Boender and Rinnooy Kan, 1987",
          .limits = "as the local method does",
          .summary = "Smooth functions with a handful of minima; finds and lists them.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void Multistart::settings(Settings& list) {
  local.settings(list);
}

Search Multistart::search(Evaluator& evaluate, Start start) const {
  constexpr std::int64_t flat_searches = 100;
  LocalSearch descend(evaluate, local);
  const Box box = evaluate.problem().sampling_box();
  Vector x = start.point, best = start.point;
  double value = start.value, best_value = start.value, least = value, most = value;
  for (std::int64_t searches = 1;; ++searches) {
    const auto found = descend.improve(x, value, start.random.child({"local", searches}));
    if (found.settled) note_minimum(evaluate, x, found.value);
    if (found.value <= best_value) {
      best = x;
      best_value = found.value;
    }
    const auto minima = static_cast<std::int64_t>(evaluate.minima().all().size());
    Iteration now(best, best_value);
    now.column("minima", static_cast<double>(minima)).column("cost", static_cast<double>(found.evaluations));
    if (searches >= flat_searches && least == most) now.settled("all values are the same");
    if (probably_all_found(searches, minima)) now.settled("no further minimum is to be expected");
    co_yield now;
    x = uniform_points(box, 1, start.random.child({"start", searches})).col(0);
    value = evaluate(x);
    least = std::min(least, value);
    most = std::max(most, value);
  }
}

} // namespace tanzen::methods
