#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/problem/derivative_check.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

double valley_value(const Vector& x) {
  return std::pow(1 - x[0], 2) + 100 * std::pow(x[1] - x[0] * x[0], 2);
}
void slope(const Vector& x, Vector& g) {
  g[0] = -2 * (1 - x[0]) - 400 * x[0] * (x[1] - x[0] * x[0]);
  g[1] = 200 * (x[1] - x[0] * x[0]);
}
void bend(const Vector& x, Matrix& h) {
  h(0, 0) = 2 - 400 * (x[1] - 3 * x[0] * x[0]);
  h(0, 1) = h(1, 0) = -400 * x[0];
  h(1, 1) = 200;
}

Problem by_hand() {
  return Problem::with_derivatives(2, valley_value, slope, bend).named("valley").region(-2, 2).start({-1.2, 1});
}

} // namespace

TEST_SUITE("derivatives by hand") {
  TEST_CASE("they are used as they are, with the same path as exact ones") {
    const Problem exact = testbed::problem("rosenbrock");
    for (const char* name : {"bfgs", "newton", "newton-trust-region", "truncated-newton", "conjugate-gradient"}) {
      CAPTURE(name);
      const Outcome own = run(by_hand(), method(name), {.start = {-1.2, 1}});
      const Outcome traced = run(exact, method(name), {.start = {-1.2, 1}});
      CHECK(own.converged());
      CHECK(own.iterations == traced.iterations);
      CHECK(own.counts[Spent::gradients] == traced.counts[Spent::gradients]);
      CHECK(own.counts[Spent::hessians] == traced.counts[Spent::hessians]);
      CHECK((own.point - traced.point).norm() < 1e-6);
    }
  }

  TEST_CASE("without a Hessian there is a gradient alone, and products of Hessians come from the Hessian") {
    const Problem half = Problem::with_derivatives(2, valley_value, slope);
    CHECK(half.objective().derivatives() == Derivatives::gradient);
    CHECK(by_hand().objective().derivatives() == Derivatives::hessian);
    CHECK_THROWS_AS((void)half.hessian({1, 1}), ProblemError);
    const Problem problem = by_hand(); // a worker borrows it
    const auto worker = problem.objective().worker();
    Vector product;
    worker->weighted_hessian_times(Vector{{0.5, 2}}, Vector::Constant(1, 3.0), Vector{{1, -1}}, product);
    CHECK((product - 3 * by_hand().hessian({0.5, 2}) * Vector{{1, -1}}).norm() < 1e-12);
  }

  TEST_CASE("maximized, they are turned with the value") {
    const Problem hill = Problem::with_derivatives(
                             1, [](const Vector& x) { return 3 - std::pow(x[0] - 2, 2); },
                             [](const Vector& x, Vector& g) { g[0] = -2 * (x[0] - 2); })
                             .maximized();
    const Outcome outcome = run(hill, method("bfgs"), {.start = {9}});
    CHECK(outcome.value == doctest::Approx(3));
    CHECK(outcome.point[0] == doctest::Approx(2));
  }

  TEST_CASE("what is missing or has another size is refused with its size") {
    CHECK_THROWS_WITH_AS((void)Problem::with_derivatives(2, {}, slope),
                         doctest::Contains("needs its value and its gradient"), ProblemError);
    CHECK_THROWS_AS((void)Problem::with_derivatives(0, valley_value, slope), ProblemError);
    const Problem longer =
        Problem::with_derivatives(2, valley_value, [](const Vector&, Vector& g) { g = Vector::Zero(5); });
    CHECK_THROWS_WITH_AS((void)longer.gradient({1, 1}),
                         doctest::Contains("has 5 coordinates; the function has 2 variables"), ProblemError);
    const Problem wider =
        Problem::with_derivatives(2, valley_value, slope, [](const Vector&, Matrix& h) { h = Matrix::Zero(3, 2); });
    CHECK_THROWS_WITH_AS((void)wider.hessian({1, 1}), doctest::Contains("is 3 by 2"), ProblemError);
    const Outcome outcome = run(longer, method("bfgs"), {.start = {1, 2}});
    CHECK(outcome.status == Status::failed);
    CHECK(outcome.message.find("has 5 coordinates") != std::string::npos);
  }

  TEST_CASE("right ones agree with extrapolated differences; a wrong sign, factor or entry is found where it is") {
    const DerivativeChecks right = check_derivatives(by_hand());
    using enum DerivativeCheck::Verdict;
    CHECK(right.gradient.verdict != wrong_formula);
    CHECK(right.gradient.points == 10);
    CHECK_FALSE(right.gradient.against_exact);
    REQUIRE(right.hessian);
    CHECK(right.hessian->verdict != wrong_formula);

    const auto wrong_slope = [](const Vector& x, Vector& g) {
      slope(x, g);
      g[1] *= 1.001;
    };
    const DerivativeCheck gradient =
        check_derivatives(Problem::with_derivatives(2, valley_value, wrong_slope).region(-2, 2)).gradient;
    CHECK(gradient.verdict == wrong_formula);
    CHECK(gradient.worst_variable == 1);
    CHECK(gradient.relative_error == doctest::Approx(0.001).epsilon(0.05));

    const auto wrong_bend = [](const Vector& x, Matrix& h) {
      bend(x, h);
      h(0, 1) = 0;
    };
    const DerivativeChecks hessian =
        check_derivatives(Problem::with_derivatives(2, valley_value, slope, wrong_bend).region(-2, 2));
    CHECK(hessian.gradient.verdict != wrong_formula);
    REQUIRE(hessian.hessian);
    CHECK(hessian.hessian->verdict == wrong_formula);
    CHECK(hessian.hessian->worst_variable == 0);
  }

  TEST_CASE("every function of the testbed agrees with its own derivatives, and what has none says so") {
    for (const char* name : {"rosenbrock", "beale", "himmelblau", "branin", "goldstein-price", "powell-singular"}) {
      const DerivativeChecks checks = check_derivatives(testbed::problem(name), 5);
      CAPTURE(name);
      CHECK(checks.gradient.verdict != DerivativeCheck::Verdict::wrong_formula);
      REQUIRE(checks.hessian);
      CHECK(checks.hessian->verdict != DerivativeCheck::Verdict::wrong_formula);
    }
    CHECK_THROWS_WITH_AS((void)check_derivatives(Problem::black_box(2, valley_value)),
                         doctest::Contains("has no derivatives"), ProblemError);
  }
}
