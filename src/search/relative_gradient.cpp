#include "tanzen/search/relative_gradient.hpp"

namespace tanzen {

double relative_gradient(const Problem& problem, const Vector& x, const Vector& gradient, double value_size) {
  const Bounds& bounds = problem.bounds();
  double largest = 0;
  for (Index i = 0; i < x.size(); ++i) {
    const double size = std::max(std::abs(x[i]), problem.typical_size(i));
    const double room = gradient[i] > 0 ? x[i] - bounds.lower()[i] : bounds.upper()[i] - x[i];
    const double slope = std::abs(gradient[i]) * std::min(size, std::max(room, 0.0));
    if (std::isnan(slope)) return slope;
    largest = std::max(largest, slope);
  }
  return largest > 0 ? largest / value_size : 0;
}

} // namespace tanzen
