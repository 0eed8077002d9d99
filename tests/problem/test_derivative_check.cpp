#include "tanzen/problem/derivative_check.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

Vector valley_gradient(const Vector& x) {
  return Vector{{-400 * x[0] * (x[1] - x[0] * x[0]) - 2 * (1 - x[0]), 200 * (x[1] - x[0] * x[0])}};
}

/// The same function, closed to exact derivatives.
Problem opaque_valley() {
  const Problem valley = testbed::problem("rosenbrock");
  return Problem::black_box(2, [valley](const Vector& x) { return valley.value(x); }).region({-2, -2}, {2, 2});
}

} // namespace

TEST_SUITE("derivative check") {
  TEST_CASE("a right gradient agrees, with exact derivatives and with extrapolated differences") {
    const auto exact = check_gradient(testbed::problem("rosenbrock"), valley_gradient, 20);
    CHECK(exact.against_exact);
    CHECK(exact.verdict == DerivativeCheck::Verdict::agrees);
    CHECK(exact.points == 20);
    const auto by_differences = check_gradient(opaque_valley(), valley_gradient, 20);
    CHECK_FALSE(by_differences.against_exact);
    CHECK(by_differences.verdict != DerivativeCheck::Verdict::wrong_formula);
    CHECK(by_differences.relative_error < 1e-8);
  }

  TEST_CASE("a wrong sign is a wrong formula, and its variable is named") {
    const auto wrong = [](const Vector& x) {
      Vector gradient = valley_gradient(x);
      gradient[1] = -gradient[1];
      return gradient;
    };
    for (const Problem& problem : {testbed::problem("rosenbrock"), opaque_valley()}) {
      const auto check = check_gradient(problem, wrong);
      CHECK(check.verdict == DerivativeCheck::Verdict::wrong_formula);
      CHECK(check.worst_variable == 1);
      CHECK(check.supplied == doctest::Approx(-check.expected).epsilon(1e-6));
    }
  }

  TEST_CASE("a factor that is a little off is found, a forward difference is only rounding") {
    const auto slightly = [](const Vector& x) { return Vector(valley_gradient(x) * 1.0001); };
    CHECK(check_gradient(testbed::problem("rosenbrock"), slightly).verdict == DerivativeCheck::Verdict::wrong_formula);
    const auto rounded = [](const Vector& x) { return Vector(valley_gradient(x) * (1 + 1e-8)); };
    CHECK(check_gradient(testbed::problem("rosenbrock"), rounded).verdict == DerivativeCheck::Verdict::rounding);
  }

  TEST_CASE("a gradient that is no number is wrong") {
    const auto nothing = [](const Vector& x) { return Vector(Vector::Constant(x.size(), NAN)); };
    CHECK(check_gradient(testbed::problem("sphere"), nothing).verdict == DerivativeCheck::Verdict::wrong_formula);
  }

  TEST_CASE("extrapolation to the limit gains digits over a plain difference") {
    const Problem problem = Problem::from_formula("exp(x)*sin(3*x)");
    const auto worker = problem.objective().worker();
    const auto slope = extrapolated_slope(*worker, Vector{{0.4}}, 0);
    const double expected = problem.gradient({0.4})[0];
    CHECK(std::abs(slope.value - expected) < 1e-10);
    CHECK(std::abs(slope.value - expected) <= 100 * slope.error + 1e-12);
  }
}
