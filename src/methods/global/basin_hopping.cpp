#include "tanzen/methods/global/basin_hopping.hpp"

#include "tanzen/methods/direct/mirrored.hpp"
#include "tanzen/methods/global/multistart.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

MethodCard BasinHopping::card() {
  return {.title = "basin hopping: random steps between local minima",
          .family = "global",
          .source = "Wales and Doye, 1997",
          .limits = "steps are mirrored at the region and the bounds, and the local method keeps them",
          .summary =
              "Functions with very many minima that lie in a larger funnel, such as the energy of a cluster of atoms.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void BasinHopping::settings(Settings& list) {
  local.settings(list);
  list.add("step", step).positive().at_most(1).means("largest first step, as a part of the region's width");
  list.add("temperature", temperature)
      .at_least(0)
      .unset_means("half the mean change of the value in the first hops")
      .means("in units of the value; 0 accepts nothing worse");
  list.add("acceptance", acceptance).above(0).below(1).means("part of the hops that should be accepted");
  list.add("patience", patience).at_least(1).means("hops without a better minimum until it is done");
}

Search BasinHopping::search(Evaluator& evaluate, Start start) const {
  constexpr Index adapt_every = 20;
  constexpr double step_factor = 0.9;
  constexpr Index short_every = 3;   // a hop in three looks into the minima beside this one,
  constexpr double short_part = 0.1; // the others into other funnels
  LocalSearch descend(evaluate, local);
  const Box box = evaluate.problem().sampling_box();
  const Bounds region(box);
  const Vector width = box.width();
  RandomStream& random = start.random;
  Vector x = start.point, trial(x.size());
  Standing here = descend.improve(x, {start.value, start.violation}, random.child({"local", 0})).standing;
  note_minimum(evaluate, x, here);
  Vector best = x;
  Standing best_standing = here;
  double length = step, total_change = 0;
  Index accepted = 0, changes = 0, idle = 0;
  for (Index hop = 1;; ++hop) {
    const double reach = hop % short_every == 0 ? short_part * length : length;
    for (Index j = 0; j < x.size(); ++j) trial[j] = x[j] + reach * width[j] * random.uniform(-1, 1);
    mirror_into(region, trial);
    const Standing before = standing_at(evaluate, trial);
    const auto found = descend.improve(trial, before, random.child({"local", hop}));
    if (found.settled) note_minimum(evaluate, trial, found.standing);
    // Of two that break constraints, or of which one does, the better is accepted, as it has no temperature.
    const double level = evaluate.feasibility();
    const bool by_value = here.violation <= level && found.standing.violation <= level;
    const double change = found.standing.value - here.value;
    if (by_value && std::isfinite(change) && change != 0 && hop <= adapt_every) {
      total_change += std::abs(change);
      ++changes;
    }
    const double heat = temperature.value_or(changes > 0 ? 0.5 * total_change / static_cast<double>(changes) : 0);
    const bool is_accepted = !descend.is_better(here, found.standing) ||
                             (by_value && heat > 0 && random.uniform() < std::exp(-change / heat));
    if (is_accepted && std::isfinite(found.standing.value)) {
      accepted += (trial - x).cwiseAbs().maxCoeff() > 1e-6 * width.maxCoeff() ? 1 : 0; // the same minimum is no hop
      x.swap(trial);
      here = found.standing;
    }
    const bool is_best = descend.is_better(here, best_standing);
    idle = is_best ? 0 : idle + 1;
    if (is_best) {
      best = x;
      best_standing = here;
    }
    if (hop % adapt_every == 0) {
      // More accepted than wanted: the steps are too timid.
      const double part = static_cast<double>(accepted) / static_cast<double>(adapt_every);
      length = part > acceptance ? std::min(1.0, length / step_factor) : length;
      if (part < acceptance) length = std::max(0.2 * step, length * step_factor);
      accepted = 0;
    }
    Iteration now(x, here.value);
    now.violation(here.violation)
        .column("best", best_standing.value)
        .column("step", length)
        .column("temperature", heat);
    now.column("minima", static_cast<double>(evaluate.minima().all().size()));
    if (idle >= patience) now.settled("no better minimum has been found for long");
    co_yield now;
  }
}

} // namespace tanzen::methods
