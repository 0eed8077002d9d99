#include "support/differences.hpp"

#include <cmath>
#include <limits>

namespace testing {

Difference eighth_order_difference(const ScalarFunction& function, const tanzen::Vector& x, tanzen::Index i) {
  constexpr double weights[] = {4.0 / 5, -1.0 / 5, 4.0 / 105, -1.0 / 280};
  Difference best{0, std::numeric_limits<double>::infinity()};
  double last = std::numeric_limits<double>::quiet_NaN();
  tanzen::Vector moved = x;
  for (double step = 0.05; step > 1e-6; step /= 2) {
    double sum = 0;
    for (int k = 1; k <= 4; ++k) {
      moved[i] = x[i] + k * step;
      const double up = function(moved);
      moved[i] = x[i] - k * step;
      sum += weights[k - 1] * (up - function(moved));
    }
    const double now = sum / step;
    if (std::abs(now - last) < best.error) best = {now, std::abs(now - last)};
    last = now;
  }
  return best;
}

} // namespace testing
