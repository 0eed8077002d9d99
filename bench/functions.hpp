#pragma once

#include <cmath>
#include <type_traits>

/// Functions written once for doubles and for traced numbers, so that both compute the same.
namespace bench {

template <class Point>
auto chained_valley(const Point& x) {
  using Number = std::decay_t<decltype(x[0] * 1.0)>;
  Number total = 0.0;
  for (decltype(x.size()) i = 0; i + 1 < x.size(); ++i) {
    const Number a = x[i + 1] - x[i] * x[i];
    const Number b = 1.0 - x[i];
    total += 100.0 * (a * a) + b * b;
  }
  return total;
}

/// A dense polynomial of degree four: every pair of variables.
template <class Point>
auto polynomial(const Point& x) {
  using Number = std::decay_t<decltype(x[0] * 1.0)>;
  Number total = 0.0;
  for (decltype(x.size()) i = 0; i < x.size(); ++i) {
    const Number square = x[i] * x[i];
    total += 0.25 * (square * square) - 0.5 * square;
    for (decltype(x.size()) j = 0; j < i; ++j) total += 0.1 * (x[i] * x[j]) * (x[i] - x[j]);
  }
  return total;
}

template <class Point>
auto transcendental(const Point& x) {
  using std::cos, std::exp, std::log, std::sqrt;
  using Number = std::decay_t<decltype(x[0] * 1.0)>;
  Number total = 0.0;
  for (decltype(x.size()) i = 0; i < x.size(); ++i) {
    total += exp(-0.1 * x[i]) * cos(3.0 * x[i]) + log(1.0 + x[i] * x[i]) + sqrt(2.0 + x[i]);
  }
  return total;
}

} // namespace bench
