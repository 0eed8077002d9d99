#include "support/differences.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

namespace testing {

namespace {

/// A slope by differences with one step, and what rounding of the values can make of it.
struct Slope {
  double value, rounding;
};

Slope slope(const ScalarFunction& function, const tanzen::Vector& x, tanzen::Index i, double step) {
  constexpr double weights[] = {4.0 / 5, -1.0 / 5, 4.0 / 105, -1.0 / 280};
  tanzen::Vector moved = x;
  double sum = 0, largest = 0;
  for (int k = 1; k <= 4; ++k) {
    moved[i] = x[i] + k * step;
    const double up = function(moved);
    moved[i] = x[i] - k * step;
    const double down = function(moved);
    sum += weights[k - 1] * (up - down);
    largest = std::max({largest, std::abs(up), std::abs(down)});
  }
  return {sum / step, std::numeric_limits<double>::epsilon() * largest / step};
}

} // namespace

Difference eighth_order_difference(const ScalarFunction& function, const tanzen::Vector& x, tanzen::Index i) {
  std::vector<double> steps;
  for (double step = 0.04; step > 3e-9; step /= 3) steps.push_back(step);
  // From the finest steps up: coarse ones may agree on what is left when they skip whole waves.
  Difference best{0, std::numeric_limits<double>::infinity()};
  auto coarser = steps.rbegin();
  Slope finer = slope(function, x, i, *coarser++), here = slope(function, x, i, *coarser++);
  for (; coarser != steps.rend(); ++coarser) {
    const Slope next = slope(function, x, i, *coarser);
    const double error =
        std::max(std::abs(here.value - next.value), std::abs(here.value - finer.value)) + here.rounding;
    if (error < best.error) best = {here.value, error};
    if (best.error <= 2e-8 * std::abs(best.value)) break;
    finer = here;
    here = next;
  }
  return best;
}

} // namespace testing
