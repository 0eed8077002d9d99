#include "tanzen/methods/direct/mirrored.hpp"

#include <cmath>

namespace tanzen::methods {

void mirror_into(const Bounds& bounds, Vector& point) {
  for (Index i = 0; i < point.size(); ++i) {
    const double lower = bounds.lower()[i], upper = bounds.upper()[i];
    double& x = point[i];
    if (x >= lower && x <= upper) continue;
    if (std::isfinite(lower) && std::isfinite(upper)) {
      const double width = upper - lower;
      const double turned = width > 0 ? std::fmod(std::abs(x - lower), 2 * width) : 0;
      x = lower + (turned > width ? 2 * width - turned : turned);
    } else {
      x = x < lower ? 2 * lower - x : 2 * upper - x;
    }
  }
  bounds.project(point); // rounding alone could leave them
}

} // namespace tanzen::methods
