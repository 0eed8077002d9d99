#include "tanzen/methods/global/multistart.hpp"

#include "tanzen/numeric/sampling.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

bool probably_all_found(std::int64_t searches, std::int64_t minima) {
  const auto s = static_cast<double>(searches), w = static_cast<double>(minima);
  return s > w + 2 && w * (s - 1) / (s - w - 2) < w + 0.5;
}

void note_minimum(Evaluator& evaluate, const Vector& point, const Standing& standing) {
  const bool is_one = std::isfinite(standing.value) && standing.violation <= evaluate.feasibility();
  if (is_one && evaluate.problem().region().contains(point)) evaluate.found_minimum(point, standing.value);
}

MethodCard Multistart::card() {
  return {.title = "a local method from many random starts",
          .family = "global",
          .source = "stopping rule: Boender and Rinnooy Kan, 1987",
          .limits = "as the local method does",
          .summary = "Smooth functions with a handful of minima; finds and lists them.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void Multistart::settings(Settings& list) {
  local.settings(list);
}

Search Multistart::search(Evaluator& evaluate, Start start) const {
  constexpr std::int64_t flat_searches = 100;
  LocalSearch descend(evaluate, local);
  const Box box = evaluate.problem().sampling_box();
  Vector x = start.point, best = x;
  Standing here{start.value, start.violation}, best_standing = here;
  double least = here.value, most = here.value;
  for (std::int64_t searches = 1;; ++searches) {
    const auto found = descend.improve(x, here, start.random.child({"local", searches}));
    if (found.settled) note_minimum(evaluate, x, found.standing);
    if (!descend.is_better(best_standing, found.standing)) {
      best = x;
      best_standing = found.standing;
    }
    const auto minima = static_cast<std::int64_t>(evaluate.minima().all().size());
    Iteration now(best, best_standing.value);
    now.violation(best_standing.violation);
    now.column("minima", static_cast<double>(minima)).column("cost", static_cast<double>(found.evaluations));
    if (searches >= flat_searches && least == most) now.settled("all values are the same");
    if (probably_all_found(searches, minima)) now.settled("no further minimum is to be expected");
    co_yield now;
    x = uniform_points(box, 1, start.random.child({"start", searches})).col(0);
    here = standing_at(evaluate, x);
    least = std::min(least, here.value);
    most = std::max(most, here.value);
  }
}

} // namespace tanzen::methods
