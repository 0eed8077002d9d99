#include "tanzen/problem/differences.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen {
namespace {

constexpr double epsilon = std::numeric_limits<double>::epsilon();

} // namespace

DifferencePair forward_pair(double x, double lower, double upper) {
  const double step = std::sqrt(epsilon) * std::max(std::abs(x), 1.0);
  if (x + step <= upper) return {x, x + step};
  return x - step >= lower ? DifferencePair{x, x - step} : DifferencePair{x, upper};
}

DifferencePair central_pair(double x, double lower, double upper) {
  const double step = std::cbrt(epsilon) * std::max(std::abs(x), 1.0);
  return {std::max(x - step, lower), std::min(x + step, upper)};
}

} // namespace tanzen
