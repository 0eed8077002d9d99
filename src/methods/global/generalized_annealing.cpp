#include "tanzen/methods/global/generalized_annealing.hpp"

#include "tanzen/methods/direct/mirrored.hpp"
#include "tanzen/methods/global/multistart.hpp"
#include "tanzen/methods/global/value_spread.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// Steps of the visiting distribution: a t distribution of (3 - q) / (q - 1) degrees of freedom (Schanze, 2006).
class VisitingSteps {
 public:
  explicit VisitingSteps(double q) : q_(q), freedom_((3 - q) / (q - 1)) {}

  /// The length by which all coordinates' normal numbers are multiplied.
  double length(double temperature, RandomStream& random) const {
    constexpr double longest = 1e8;
    const double scale = std::pow(temperature, 1 / (3 - q_)) / std::sqrt(3 - q_);
    const double chi = 2 * random.gamma(freedom_ / 2) / freedom_;
    return std::min(longest, scale / std::sqrt(std::max(chi, 1e-300)));
  }

 private:
  double q_, freedom_;
};

/// The chance that a rise is accepted (Tsallis and Stariolo, 1996, equation 5).
double acceptance(double rise, double temperature, double q) {
  if (rise <= 0) return 1;
  if (q == 1) return std::exp(-rise / temperature);
  const double base = 1 - (1 - q) * rise / temperature;
  return base <= 0 ? 0 : std::pow(base, 1 / (1 - q));
}

} // namespace

MethodCard GeneralizedAnnealing::card() {
  return {
      .title = "generalized simulated annealing with local refinement",
      .family = "global",
      .source = "Tsallis and Stariolo, 1996; Xiang, Sun, Fan and Gong, 1997; steps: Schanze, 2006",
      .limits = "steps are mirrored at the region and the bounds, and the local method keeps them",
      .summary =
          "Rugged functions of up to some tens of variables: long jumps find the basin, the local method its floor.",
      .needs = Derivatives::none,
      .able = {.bounds = true}};
}

void GeneralizedAnnealing::settings(Settings& list) {
  local.settings(list);
  list.add("visiting", visiting)
      .above(1)
      .below(3)
      .means("q of the visiting distribution: towards 3 the tails get heavier");
  list.add("accepting", accepting).at_most(1).means("q of the acceptance: the lower, the greedier");
  list.add("heat", heat).positive().means("first visiting temperature");
  list.add("temperature", temperature)
      .positive()
      .unset_means("the spread of the values of random points")
      .means("first accepting temperature, in units of the value");
  list.add("reheat", reheat).above(0).below(1).means("part of the first temperature at which it begins anew");
  list.add("patience", patience).at_least(1).means("levels without a better point until it is done");
}

Search GeneralizedAnnealing::search(Evaluator& evaluate, Start start) const {
  constexpr Index flat_levels = 200;
  LocalSearch descend(evaluate, local);
  const Box box = evaluate.problem().sampling_box();
  const Bounds region(box);
  const Vector width = box.width();
  const VisitingSteps steps(visiting);
  RandomStream& random = start.random;
  const Index n = start.point.size();
  const double first = temperature.value_or(value_spread(evaluate, random));
  const double numerator = std::pow(2.0, visiting - 1) - 1;
  Vector x = start.point, trial(n), best = x;
  double value = start.value, best_value = value;
  Index idle = 0;
  bool has_differed = false; // any value from the start's
  std::int64_t searches = 0;
  for (double t = 1;; ++t) {
    const double hot = heat * numerator / (std::pow(1 + t, visiting - 1) - 1);
    const double accepting_heat = first * (hot / heat) / t;
    const double before = best_value;
    for (Index k = 0; k < 2 * n; ++k) {
      trial = x;
      if (k < n) { // first all coordinates together, then one at a time
        const double length = steps.length(hot, random);
        for (Index j = 0; j < n; ++j) trial[j] += length * width[j] * random.normal();
      } else {
        trial[k - n] += steps.length(hot, random) * width[k - n] * random.normal();
      }
      mirror_into(region, trial);
      const double found = evaluate(trial);
      has_differed = has_differed || found != start.value;
      if (!std::isfinite(found) || random.uniform() >= acceptance(found - value, accepting_heat, accepting)) continue;
      x.swap(trial);
      value = found;
      if (value < best_value) {
        best = x;
        best_value = value;
      }
    }
    if (best_value < before) {
      const auto found = descend.improve(best, {best_value}, random.child({"local", searches++}));
      if (found.settled) note_minimum(evaluate, best, found.standing);
      best_value = found.standing.value;
      x = best;
      value = best_value;
    }
    idle = best_value < before ? 0 : idle + 1;
    Iteration now(x, value);
    now.column("temperature", hot).column("best", best_value).column("searches", static_cast<double>(searches));
    if (!has_differed && idle >= flat_levels) now.settled("all values are the same");
    if (idle >= patience) now.settled("no better point has been found for long");
    co_yield now;
    if (hot < reheat * heat) t = 0; // the loop makes it 1
  }
}

} // namespace tanzen::methods
