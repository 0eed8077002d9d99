#include "tanzen/methods/population/cross_entropy.hpp"

#include "tanzen/methods/population/population.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

double truncated_normal(double mean, double deviation, double lower, double upper, RandomStream& random) {
  constexpr int most_tries = 10;
  double x = mean;
  for (int k = 0; k < most_tries; ++k) {
    x = mean + deviation * random.normal();
    if (x >= lower && x <= upper) return x;
  }
  return std::clamp(x, lower, upper);
}

} // namespace

MethodCard CrossEntropy::card() {
  return {.title = "cross-entropy method with normal distributions",
          .family = "population",
          .source = "Rubinstein, 1999; Kroese, Porotsky and Rubinstein, 2006",
          .limits = "normal distributions truncated at them",
          .summary =
              "Rugged functions whose variables act independently; simple, steady, and not exact where variables "
              "depend on each other.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void CrossEntropy::settings(Settings& list) {
  list.add("population", population)
      .at_least(10)
      .at_most(1e6)
      .unset_means("10 for each variable, at least 50")
      .means("points an iteration");
  list.add("elite", elite).above(0).at_most(0.5).means("part of the points that the distributions are fitted to");
  list.add("smoothing", smoothing).above(0).at_most(1).means("weight of the new mean against the old one");
  list.add("deviation-smoothing", deviation_smoothing)
      .above(0)
      .at_most(1)
      .means("the same of the deviations, at first");
  list.add("shrinking", shrinking).at_least(1).at_most(100).means("how fast the deviations' smoothing fades");
  add_collapse(list, collapse);
}

Search CrossEntropy::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Index count = population.value_or(std::max<Index>(50, 10 * n));
  const auto chosen = std::max<Index>(2, static_cast<Index>(elite * static_cast<double>(count)));
  const Bounds& bounds = evaluate.bounds();
  RandomStream& random = start.random;
  Population sample(evaluate, start, count);
  Vector mean = Vector::Zero(n), deviation = Vector::Zero(n), new_mean(n), new_deviation(n);
  std::vector<Index> order;
  for (double t = 1;; ++t) {
    sort_by_value(sample.values, order);
    new_mean.setZero();
    new_deviation.setZero();
    const auto elites = std::span(order).first(static_cast<std::size_t>(chosen));
    for (const Index k : elites) new_mean += sample.points.col(k) / static_cast<double>(chosen);
    for (const Index k : elites)
      new_deviation += (sample.points.col(k) - new_mean).cwiseAbs2() / static_cast<double>(chosen);
    new_deviation = new_deviation.cwiseSqrt();
    const double fading = deviation_smoothing - deviation_smoothing * std::pow(1 - 1 / t, shrinking);
    // The first sample has nothing to be smoothed with.
    const double new_part = t == 1 ? 1 : smoothing, new_deviation_part = t == 1 ? 1 : fading;
    mean = new_part * new_mean + (1 - new_part) * mean;
    deviation = new_deviation_part * new_deviation + (1 - new_deviation_part) * deviation;
    for (Index k = 0; k < count; ++k) {
      for (Index j = 0; j < n; ++j)
        sample.points(j, k) = truncated_normal(mean[j], deviation[j], bounds.lower()[j], bounds.upper()[j], random);
    }
    sample.evaluate_by(evaluate);
    co_yield sample.iteration(collapse).column("deviation", deviation.mean());
  }
}

} // namespace tanzen::methods
