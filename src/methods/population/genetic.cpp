#include "tanzen/methods/population/genetic.hpp"

#include "tanzen/methods/population/population.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// The interval that children of a variable lie in: its bounds, or where it has none on a side, so far outside the
/// parents as the region is wide.
struct Interval {
  double lower, upper;
};

Interval interval_for(const Bounds& bounds, double width, Index j, double low, double high) {
  const double lower = bounds.lower()[j], upper = bounds.upper()[j];
  return {std::isfinite(lower) ? lower : low - width, std::isfinite(upper) ? upper : high + width};
}

/// The spread of two children about their parents, so that none leaves the interval on its side.
double spread(double u, double room, double index) {
  const double alpha = 2 - std::pow(room, -(index + 1));
  return u <= 1 / alpha ? std::pow(u * alpha, 1 / (index + 1)) : std::pow(1 / (2 - u * alpha), 1 / (index + 1));
}

/// Simulated binary crossover of one coordinate of two children, which are their parents as yet.
void cross(double& a, double& b, const Interval& interval, double index, RandomStream& random) {
  const double low = std::min(a, b), high = std::max(a, b);
  const double u = random.uniform();
  if (high - low <= 1e-14 * (1 + std::abs(high))) return;
  const double below = 1 + 2 * (low - interval.lower) / (high - low),
               above = 1 + 2 * (interval.upper - high) / (high - low);
  const double first = 0.5 * (low + high - spread(u, below, index) * (high - low));
  const double second = 0.5 * (low + high + spread(u, above, index) * (high - low));
  const bool swapped = random.uniform() < 0.5;
  a = std::clamp(swapped ? second : first, interval.lower, interval.upper);
  b = std::clamp(swapped ? first : second, interval.lower, interval.upper);
}

/// Polynomial mutation of one coordinate.
double mutated(double x, const Interval& interval, double index, RandomStream& random) {
  const double width = interval.upper - interval.lower, u = random.uniform();
  if (!(width > 0)) return x;
  const double power = 1 / (index + 1);
  double change = 0;
  if (u < 0.5) {
    const double far = 1 - (x - interval.lower) / width;
    change = std::pow(2 * u + (1 - 2 * u) * std::pow(far, index + 1), power) - 1;
  } else {
    const double far = 1 - (interval.upper - x) / width;
    change = 1 - std::pow(2 * (1 - u) + 2 * (u - 0.5) * std::pow(far, index + 1), power);
  }
  return std::clamp(x + change * width, interval.lower, interval.upper);
}

} // namespace

MethodCard Genetic::card() {
  return {.title = "real-coded genetic algorithm",
          .family = "population",
          .source = "Deb and Agrawal, 1995; Deb and Goyal, 1996; elitism: De Jong, 1975",
          .bounds = "crossover and mutation are those for variables with bounds: no child lies outside",
          .summary =
              "Rugged functions where a good answer is enough; to be compared with differential evolution, which "
              "is mostly more exact.",
          .needs = Derivatives::none};
}

void Genetic::settings(Settings& list) {
  list.add("population", population).at_least(4).at_most(1e6).means("members");
  list.add("elite", elite).at_least(0).at_most(1e6).means("best members that live on unchanged");
  list.add("tournament", tournament).between(1, 100).means("members of whom the best becomes a parent");
  list.add("crossover", crossover).between(0, 1).means("chance that two parents are crossed");
  list.add("crossover-index", crossover_index)
      .at_least(0)
      .at_most(1000)
      .means("the larger, the nearer children are to parents");
  list.add("mutation", mutation).between(0, 1).unset_means("1 / n").means("chance that a coordinate is changed");
  list.add("mutation-index", mutation_index).at_least(0).at_most(1000).means("the larger, the smaller the changes");
  add_collapse(list, collapse);
}

Search Genetic::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), count = population, kept = std::min(elite, count - 1);
  const Bounds& bounds = evaluate.bounds();
  const Vector widths = evaluate.problem().sampling_box().width();
  const double chance = mutation.value_or(1 / static_cast<double>(n));
  RandomStream& random = start.random;
  Population members(evaluate, start, count);
  Matrix children(n, count - kept), elders(n, kept);
  Vector values(count - kept), elder_values(kept), first(n), second(n);
  std::vector<Index> order;
  const auto winner = [&] {
    Index best = random.below(count);
    for (Index k = 1; k < tournament; ++k) {
      const Index other = random.below(count);
      if (members.values[other] < members.values[best]) best = other;
    }
    return best;
  };
  const auto mutate = [&](Vector& child) {
    for (Index j = 0; j < n; ++j) {
      if (random.uniform() >= chance) continue;
      child[j] = mutated(child[j], interval_for(bounds, widths[j], j, child[j], child[j]), mutation_index, random);
    }
  };
  for (;;) {
    for (Index k = 0; k < children.cols(); k += 2) {
      first = members.points.col(winner());
      second = members.points.col(winner());
      const bool crossed = random.uniform() < crossover;
      for (Index j = 0; j < n && crossed; ++j) {
        if (random.uniform() >= 0.5) continue; // each coordinate by chance, as in the paper
        const auto [low, high] = std::minmax(first[j], second[j]);
        cross(first[j], second[j], interval_for(bounds, widths[j], j, low, high), crossover_index, random);
      }
      mutate(first);
      children.col(k) = first;
      if (k + 1 == children.cols()) break;
      mutate(second);
      children.col(k + 1) = second;
    }
    evaluate.values(children, values);
    sort_by_value(members.values, order);
    for (Index k = 0; k < kept; ++k) {
      elders.col(k) = members.points.col(order[static_cast<std::size_t>(k)]);
      elder_values[k] = members.values[order[static_cast<std::size_t>(k)]];
    }
    members.points << elders, children;
    members.values << elder_values, values;
    co_yield members.iteration(collapse);
  }
}

} // namespace tanzen::methods
