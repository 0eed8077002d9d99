#include "support/differences.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

namespace testing {

Difference eighth_order_difference(const ScalarFunction& function, const tanzen::Vector& x, tanzen::Index i) {
  constexpr double weights[] = {4.0 / 5, -1.0 / 5, 4.0 / 105, -1.0 / 280};
  std::vector<double> slopes, roundings;
  tanzen::Vector moved = x;
  for (double step = 0.04; step > 3e-9; step /= 3) {
    double sum = 0, largest = 0;
    for (int k = 1; k <= 4; ++k) {
      moved[i] = x[i] + k * step;
      const double up = function(moved);
      moved[i] = x[i] - k * step;
      const double down = function(moved);
      sum += weights[k - 1] * (up - down);
      largest = std::max({largest, std::abs(up), std::abs(down)});
    }
    slopes.push_back(sum / step);
    roundings.push_back(std::numeric_limits<double>::epsilon() * largest / step);
  }
  // From the finest steps up: coarse ones may agree on what is left when they skip whole waves.
  Difference best{0, std::numeric_limits<double>::infinity()};
  for (std::size_t k = slopes.size() - 2; k > 0; --k) {
    const double error =
        std::max(std::abs(slopes[k] - slopes[k - 1]), std::abs(slopes[k] - slopes[k + 1])) + roundings[k];
    if (error < best.error) best = {slopes[k], error};
    if (best.error <= 2e-8 * std::abs(best.value)) break;
  }
  return best;
}

} // namespace testing
