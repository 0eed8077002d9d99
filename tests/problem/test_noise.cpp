#include "tanzen/problem/noise.hpp"
#include "tanzen/problem/problem.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <vector>

using namespace tanzen;

namespace {

/// Sorted values of a function that is 2 everywhere.
std::vector<double> drawn_noise(const Noise& noise, int count) {
  const Problem flat = Problem::from_formula("2 + 0*x").noisy(noise);
  const auto worker = flat.objective().worker();
  std::vector<double> values(static_cast<std::size_t>(count));
  for (double& value : values) value = worker->value(Vector::Zero(1));
  std::ranges::sort(values);
  return values;
}

/// The largest distance between the values' distribution and `probability` (Kolmogorov and Smirnov).
template <class Distribution>
double distance(const std::vector<double>& sorted, Distribution&& probability) {
  double most = 0;
  const auto count = static_cast<double>(sorted.size());
  for (std::size_t k = 0; k < sorted.size(); ++k) {
    const double p = probability(sorted[k]);
    most = std::max(
        {most, std::abs(p - static_cast<double>(k) / count), std::abs(p - static_cast<double>(k + 1) / count)});
  }
  return most;
}

double normal(double z) {
  return 0.5 * std::erfc(-z / std::sqrt(2));
}

} // namespace

TEST_SUITE("noise") {
  TEST_CASE("each kind has its distribution, added or multiplied") {
    constexpr int count = 5000;
    const double critical = 1.63 / std::sqrt(count); // one in a hundred
    CHECK(distance(drawn_noise({.level = 0.5}, count), [](double v) { return normal((v - 2) / 0.5); }) < critical);
    CHECK(distance(drawn_noise({.level = 0.5, .relative = true}, count), [](double v) { return normal(v - 2); }) <
          critical);
    CHECK(distance(drawn_noise({.kind = NoiseKind::flat, .level = 0.3}, count),
                   [](double v) { return std::clamp((v - 1.7) / 0.6, 0.0, 1.0); }) < critical);
    CHECK(distance(drawn_noise({.kind = NoiseKind::heavy, .level = 0.1}, count),
                   [](double v) { return 0.5 + std::atan((v - 2) / 0.1) / 3.14159265358979; }) < critical);
  }

  TEST_CASE("no noise is the exact value, and seeds are told apart") {
    CHECK(drawn_noise({.level = 0}, 3) == std::vector<double>{2, 2, 2});
    CHECK(drawn_noise({.level = 1, .seed = 4}, 10) == drawn_noise({.level = 1, .seed = 4}, 10));
    CHECK(drawn_noise({.level = 1, .seed = 4}, 10) != drawn_noise({.level = 1, .seed = 5}, 10));
  }

  TEST_CASE("every worker begins with the first noise, so that a run is the same whoever does it") {
    const Problem noisy = Problem::from_formula("x^2").noisy({.level = 1});
    const auto first = noisy.objective().worker(), second = noisy.objective().worker();
    const double a = first->value(Vector::Ones(1)), b = first->value(Vector::Ones(1));
    CHECK(second->value(Vector::Ones(1)) == a);
    CHECK(second->value(Vector::Ones(1)) == b);
    CHECK(a != b);
    CHECK(noisy.objective().depends_on_order());
  }

  TEST_CASE("a noisy problem has no derivatives, and keeps what is known of it") {
    const Problem noisy = Problem::from_formula("2*x^2 + 0.7*y^2")
                              .named("bowl")
                              .known_minimum({0, 0}, 0)
                              .region({-1, -1}, {1, 1})
                              .noisy({.level = 0.1});
    CHECK(noisy.objective().derivatives() == Derivatives::none);
    CHECK_THROWS_AS((void)noisy.gradient({1, 1}), ProblemError);
    CHECK(noisy.name() == "bowl");
    CHECK(noisy.known_minima().size() == 1);
    CHECK(noisy.region().upper == Vector::Ones(2));
  }
}
