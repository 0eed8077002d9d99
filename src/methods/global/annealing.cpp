#include "tanzen/methods/global/annealing.hpp"

#include "tanzen/methods/global/value_spread.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace tanzen::methods {
namespace {

double cooled(const Annealing& settings, double first, Index level) {
  const auto k = static_cast<double>(level);
  switch (settings.cooling) {
  case Annealing::Cooling::geometric: return first * std::pow(settings.factor, k);
  case Annealing::Cooling::linear: return first * std::max(0.0, 1 - k / static_cast<double>(settings.levels));
  case Annealing::Cooling::logarithmic: return first * std::log(2.0) / std::log(2 + k);
  case Annealing::Cooling::inverse: break;
  }
  return first / (1 + k);
}

/// Longer steps where more than six in ten moves were accepted, shorter ones where fewer than four were (Corana and
/// others, 1987).
void adapt(Vector& steps, const Vector& accepted, const Vector& longest) {
  constexpr double adaptation = 2; // the paper's c
  for (Index j = 0; j < steps.size(); ++j) {
    if (accepted[j] > 0.6) steps[j] *= 1 + adaptation * (accepted[j] - 0.6) / 0.4;
    if (accepted[j] < 0.4) steps[j] /= 1 + adaptation * (0.4 - accepted[j]) / 0.4;
    steps[j] = std::min(steps[j], longest[j]);
  }
}

} // namespace

MethodCard Annealing::card() {
  return {.title = "simulated annealing with adapted steps",
          .family = "global",
          .source = "Kirkpatrick, Gelatt and Vecchi, 1983; Corana, Marchesi, Martini and Ridella, 1987",
          .limits = "a move outside them is drawn again within them",
          .summary = "Rugged functions with cheap values; slow and sure, the slower the cooling the surer.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void Annealing::settings(Settings& list) {
  list.add("cooling", cooling,
           {{"geometric", Cooling::geometric},
            {"linear", Cooling::linear},
            {"logarithmic", Cooling::logarithmic},
            {"inverse", Cooling::inverse}})
      .means("how the temperature falls from level to level");
  list.add("temperature", temperature)
      .positive()
      .unset_means("the spread of the values of random points")
      .means("first temperature, in units of the value");
  list.add("factor", factor).above(0).below(1).means("of geometric cooling");
  list.add("rounds", rounds).at_least(1).at_most(1e6).means("adaptations of the steps at each level");
  list.add("levels", levels).at_least(1).at_most(1e9).means("of temperature, until it is done");
  list.add("tolerance", tolerance).at_least(0).means("done when the best value changes less, relatively, in 4 levels");
}

Search Annealing::search(Evaluator& evaluate, Start start) const {
  constexpr Index cycles = 20; // of all variables between two adaptations
  constexpr std::size_t flat_levels = 4;
  const Index n = start.point.size();
  const Bounds& bounds = evaluate.bounds();
  const Vector width = evaluate.problem().sampling_box().width();
  RandomStream& random = start.random;
  const double first = temperature.value_or(value_spread(evaluate, start.random));
  Vector x = start.point, trial(n), steps = width, accepted(n), best = x;
  double value = start.value, best_value = value;
  std::array<double, flat_levels> last_bests;
  last_bests.fill(std::numeric_limits<double>::infinity());
  for (Index level = 0;; ++level) {
    const double heat = cooled(*this, first, level);
    double accepted_in_all = 0;
    for (Index round = 0; round < rounds; ++round) {
      accepted.setZero();
      for (Index cycle = 0; cycle < cycles; ++cycle) {
        for (Index j = 0; j < n; ++j) {
          trial = x;
          trial[j] = x[j] + steps[j] * random.uniform(-1, 1);
          if (trial[j] < bounds.lower()[j] || trial[j] > bounds.upper()[j])
            trial[j] = random.uniform(std::max(bounds.lower()[j], x[j] - steps[j]),
                                      std::min(bounds.upper()[j], x[j] + steps[j]));
          const double found = evaluate(trial);
          const double rise = found - value;
          const bool goes = found <= value || (heat > 0 && random.uniform() < std::exp(-rise / heat));
          if (!goes || !std::isfinite(found)) continue;
          accepted[j] += 1;
          x.swap(trial);
          value = found;
          if (value < best_value) {
            best = x;
            best_value = value;
          }
        }
      }
      accepted /= static_cast<double>(cycles);
      accepted_in_all += accepted.mean() / static_cast<double>(rounds);
      adapt(steps, accepted, width);
    }
    const double before = last_bests[static_cast<std::size_t>(level) % flat_levels];
    last_bests[static_cast<std::size_t>(level) % flat_levels] = value;
    const bool is_flat =
        std::ranges::all_of(
            last_bests,
            [&](double v) { return std::abs(v - best_value) <= tolerance * (std::abs(best_value) + tolerance); }) &&
        std::isfinite(before);
    Iteration now(x, value);
    now.column("temperature", heat).column("best", best_value).column("accepted", accepted_in_all);
    now.column("step", steps.mean());
    if (is_flat) now.settled("the last levels ended at the best value");
    if (level + 1 >= levels) now.at_limit("the last level of temperature is done");
    co_yield now;
    // A level begins at the best point so far (as in the paper).
    x = best;
    value = best_value;
  }
}

} // namespace tanzen::methods
