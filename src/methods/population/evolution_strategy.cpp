#include "tanzen/methods/population/evolution_strategy.hpp"

#include "tanzen/methods/direct/mirrored.hpp"
#include "tanzen/methods/population/population.hpp"
#include "tanzen/search/relative_gradient.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

constexpr std::string_view short_steps = "the steps have become too short to matter";
constexpr std::string_view same_values = "the values no longer differ";

Search one_fifth_search(Evaluator& evaluate, Start start, double first_sigma, double collapse) {
  const Index n = start.point.size();
  const Vector scale = evaluate.problem().sampling_box().width();
  // A success makes the step so much longer that four failures undo it.
  const double damping = 1 + static_cast<double>(n) / 3;
  Vector x = start.point, trial(n);
  double value = start.value, sigma = first_sigma;
  Index equal = 0;
  for (;;) {
    start.random.fill_normal(trial);
    trial = x + sigma * scale.cwiseProduct(trial);
    mirror_into(evaluate.bounds(), trial);
    const double found = evaluate(trial);
    const bool is_better = found < value;
    equal = found == value ? equal + 1 : 0;
    sigma *= std::exp((is_better ? 0.8 : -0.2) / damping);
    if (found <= value) {
      x.swap(trial);
      value = found;
    }
    Iteration now(x, value);
    now.column("sigma", sigma);
    if (relative_size(evaluate.problem(), x, sigma * scale) <= collapse) now.settled(short_steps);
    if (equal > 100 + 10 * n) now.settled(same_values);
    co_yield now;
  }
}

} // namespace

MethodCard EvolutionStrategy::card() {
  return {.title = "evolution strategy, (1+1) or (mu, lambda)",
          .family = "population",
          .source = "Rechenberg, 1973; Schwefel, 1995; Beyer and Schwefel, 2002",
          .limits = "points outside are mirrored at them",
          .summary =
              "The forerunners of cma-es, for comparing: they adapt the length of their steps, not their direction.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void EvolutionStrategy::settings(Settings& list) {
  list.add("form", form, {{"one-fifth", Form::one_fifth}, {"self-adaptive", Form::self_adaptive}})
      .means("one point whose step follows its successes, or many that inherit theirs");
  list.add("parents", parents).at_least(1).at_most(1e6).unset_means("a fourth of the children").means("mu");
  list.add("children", children)
      .at_least(2)
      .at_most(1e6)
      .unset_means("4 for each variable, at least 28")
      .means("lambda");
  list.add("sigma", sigma).positive().means("first standard deviation, as a part of the region's width");
  add_collapse(list, collapse);
}

Search EvolutionStrategy::search(Evaluator& evaluate, Start start) const {
  if (form == Form::one_fifth) {
    Search inner = one_fifth_search(evaluate, start, sigma, collapse);
    while (inner.next()) co_yield inner.iteration();
    co_return;
  }
  const Index n = start.point.size(), lambda = children.value_or(std::max<Index>(28, 4 * n));
  const Index mu = std::clamp<Index>(parents.value_or(lambda / 4), 1, lambda);
  const Vector scale = evaluate.problem().sampling_box().width();
  const double together = 1 / std::sqrt(2 * static_cast<double>(n));
  const double each = 1 / std::sqrt(2 * std::sqrt(static_cast<double>(n)));
  RandomStream& random = start.random;
  Vector mean = start.point, mean_steps = Vector::Constant(n, sigma), point(n), best(n), values(lambda);
  Matrix points(n, lambda), steps(n, lambda);
  std::vector<Index> order;
  for (;;) {
    for (Index k = 0; k < lambda; ++k) {
      const double common = together * random.normal();
      for (Index j = 0; j < n; ++j) {
        steps(j, k) = mean_steps[j] * std::exp(common + each * random.normal());
        point[j] = mean[j] + steps(j, k) * scale[j] * random.normal();
      }
      mirror_into(evaluate.bounds(), point);
      points.col(k) = point;
    }
    evaluate.values(points, values);
    sort_by_value(values, order);
    // Intermediate recombination of all parents, in the steps by their geometric mean.
    mean.setZero();
    mean_steps.setZero();
    for (Index k = 0; k < mu; ++k) {
      const Index parent = order[static_cast<std::size_t>(k)];
      mean += points.col(parent) / static_cast<double>(mu);
      mean_steps.array() += steps.col(parent).array().log() / static_cast<double>(mu);
    }
    mean_steps = mean_steps.array().exp();
    evaluate.bounds().project(mean);
    best = points.col(order.front());
    const double best_value = values[order.front()];
    Iteration now(best, best_value);
    now.population(points, values).column("sigma", mean_steps.mean());
    if (relative_size(evaluate.problem(), best, mean_steps.cwiseProduct(scale)) <= collapse) now.settled(short_steps);
    if (values[order.back()] == best_value && std::isfinite(best_value)) now.settled(same_values);
    co_yield now;
  }
}

} // namespace tanzen::methods
