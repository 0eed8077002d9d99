#include "toolkit_fronts.hpp"
#include "numbers.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::testbed {
namespace {

/// A convex shape whose last objective is 2 M times what `last` of the first place has come down to.
std::optional<KnownFront> convex_front(Index m, const RunningLeast& last, const char* stated) {
  const Vector radii = twice_numbers(m);
  if (m == 2)
    return plane_front(stated, {{[&last](double t) {
                                   const double place = last.place(t);
                                   return PlanePoint{2 * (1 - std::cos(place * pi / 2)), 4 * last(t)};
                                 },
                                 0, 1}});
  const auto points = [m, radii, &last](Index count) -> Matrix {
    const Index steps = steps_for(count, m - 1);
    const std::vector<double> firsts = last.places(steps);
    Matrix made(m, static_cast<Index>(std::lround(std::pow(steps, m - 1))));
    for (Index k = 0; k < made.cols(); ++k) {
      Index rest = k / steps;
      const double first = firsts[static_cast<std::size_t>(k % steps)];
      made(m - 1, k) = last(first);
      double product = 1 - std::cos(first * pi / 2);
      for (Index j = m - 2; j > 0; --j, rest /= steps) {
        const double angle = pi / 2 * static_cast<double>(rest % steps) / static_cast<double>(steps - 1);
        made(j, k) = product * (1 - std::sin(angle));
        product *= 1 - std::cos(angle);
      }
      made(0, k) = product;
    }
    return radii.asDiagonal() * made;
  };
  // How large the first factor can be where the others are to stay below their shares: of two, c (1 - cos t) <= a and
  // c (1 - sin t) <= b can be had up to c = a + b + sqrt(2 a b); of more, one after the other.
  const auto covers = [m, radii, &last](const Vector& f) {
    if ((f.array() < 0).any()) return false;
    double factor = f[0] / radii[0];
    for (Index j = 1; j + 1 < m; ++j) {
      const double share = f[j] / radii[j];
      factor += share + std::sqrt(2 * factor * share);
    }
    return last(2 / pi * std::acos(1 - std::min(1.0, factor))) <= f[m - 1] / radii[m - 1];
  };
  return space_front(stated, Vector::Zero(m), radii, points, covers);
}

} // namespace

Vector twice_numbers(Index m) {
  return 2 * Vector::LinSpaced(m, 1, static_cast<double>(m));
}

std::optional<KnownFront> ellipsoid_front(Index m) {
  if (m == 2)
    return plane_front("(f1/2)^2 + (f2/4)^2 = 1", {{[](double t) {
                                                      return PlanePoint{2 * std::sin(t), 4 * std::cos(t)};
                                                    },
                                                    0, pi / 2}});
  const Vector radii = twice_numbers(m);
  const auto points = [radii, m](Index count) -> Matrix {
    Matrix made = simplex_points(m, count);
    for (Index k = 0; k < made.cols(); ++k) made.col(k) = made.col(k).normalized().cwiseProduct(radii);
    return made;
  };
  return space_front("sum (f[i]/(2 i))^2 = 1", Vector::Zero(m), radii, points,
                     [radii](const Vector& f) { return f.cwiseQuotient(radii).squaredNorm() >= 1; });
}

std::optional<KnownFront> line_front(Index m) {
  if (m > 2) return std::nullopt;
  return plane_front(
      "f1/2 + f2/4 = 1", [](double t) { return 4 - 2 * t; }, 0, 2);
}

std::optional<KnownFront> mixed_front(Index m) {
  static const RunningLeast last([](double t) { return 1 - t - std::cos(10 * pi * t + pi / 2) / (10 * pi); });
  return convex_front(m, last, "convex, the last objective 2 M (1 - x - cos(10 pi x + pi/2)/(10 pi))");
}

std::optional<KnownFront> broken_front(Index m) {
  static const RunningLeast last([](double t) { return 1 - t * std::pow(std::cos(5 * pi * t), 2); });
  return convex_front(m, last, "convex, the last objective 2 M (1 - x cos(5 pi x)^2), as far as it is nondominated");
}

} // namespace tanzen::testbed
