#include "bounded_variation.hpp"

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

void BoundedVariation::cross(Vector& first, Vector& second, RandomStream& random) const {
  const bool crossed = random.uniform() < crossover;
  for (Index j = 0; j < first.size() && crossed; ++j) {
    if (random.uniform() >= 0.5) continue; // each coordinate by chance, as in the paper
    const auto [low, high] = std::minmax(first[j], second[j]);
    tanzen::methods::cross(first[j], second[j], interval_for(bounds, widths[j], j, low, high), crossover_index, random);
  }
}

void BoundedVariation::mutate(Vector& child, RandomStream& random) const {
  for (Index j = 0; j < child.size(); ++j) {
    if (random.uniform() >= mutation) continue;
    child[j] = mutated(child[j], interval_for(bounds, widths[j], j, child[j], child[j]), mutation_index, random);
  }
}

} // namespace tanzen::methods
