#include "support/traces.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/methods/line/ray_minimum.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

Problem quadratic() {
  return Problem::from_formula("2*(x - 1)^2 + 0.7*(y + 2)^2");
}

} // namespace

TEST_SUITE("gradient descent") {
  TEST_CASE("a fixed step contracts a quadratic by 1 - step * curvature in every iteration") {
    const Outcome outcome =
        run(quadratic(), method("gradient-descent", {{"step", 0.15}}), testing::exactly(30, {6, -9}));
    REQUIRE(outcome.trace.rows() == 31);
    const Vector minimum{{1, -2}}, left{{1 - 0.15 * 4, 1 - 0.15 * 1.4}};
    for (std::size_t row = 1; row < 31; ++row) {
      const Vector before = outcome.trace.point(row - 1) - minimum, after = outcome.trace.point(row) - minimum;
      CHECK((after - before.cwiseProduct(left)).norm() <= 1e-14 * before.norm() + 1e-15);
    }
  }

  TEST_CASE("a step at the limit of stability flips for ever, and above it diverges") {
    const Outcome flips = run(quadratic(), method("gradient-descent", {{"step", 0.5}}), testing::exactly(60, {6, -9}));
    CHECK(flips.trace.point(60) == flips.trace.point(58));
    CHECK(flips.trace.point(60) != flips.trace.point(59));
    CHECK_FALSE(flips.converged());
    const Outcome leaves = run(quadratic(), method("gradient-descent", {{"step", 0.9}}), testing::exactly(30, {6, -9}));
    CHECK(leaves.status == Status::diverged);
  }

  TEST_CASE("an exact step on a quadratic is g.g / g.Hg") {
    const Problem problem = Problem::from_formula("3*x^2 - 2*x*y + 2*y^2 - 5*x + 7*y");
    const Outcome outcome = run(problem, method("gradient-descent", {{"rule", "exact"}}), testing::exactly(2, {2, 2}));
    const auto steps = outcome.trace.column("step");
    REQUIRE(steps.size() == 3);
    const Matrix hessian = problem.hessian({0, 0});
    for (std::size_t row = 1; row < 3; ++row) {
      const Vector g = problem.gradient(Vector(outcome.trace.point(row - 1)));
      CHECK(steps[row] == doctest::Approx(g.squaredNorm() / g.dot(hessian * g)).epsilon(1e-8));
    }
    CHECK(steps[1] == doctest::Approx(130.0 / 406.0).epsilon(1e-12));
  }

  TEST_CASE("exact steps zigzag: successive gradients are at right angles, and the rate is Kantorovich's at worst") {
    const Problem problem = testbed::problem("ellipsoid", 2, {{"condition", 10}});
    const Outcome outcome =
        run(problem, method("gradient-descent", {{"rule", "exact"}}), testing::exactly(12, {10, 1}));
    const auto values = outcome.trace.column("value");
    for (std::size_t row = 1; row < values.size(); ++row) {
      const Vector before = problem.gradient(Vector(outcome.trace.point(row - 1))),
                   after = problem.gradient(Vector(outcome.trace.point(row)));
      CHECK(std::abs(before.dot(after)) < 1e-9 * before.norm() * before.norm());
      CHECK(values[row] <= values[row - 1] * 81.0 / 121.0 * (1 + 1e-9)); // ((k - 1)/(k + 1))^2
    }
    CHECK(values[1] == doctest::Approx(values[0] * 81.0 / 121.0).epsilon(1e-9)); // (10, 1) is the worst start
  }

  TEST_CASE("backtracking never raises the value, whatever the first step") {
    for (const double step : {1e-6, 1e-2, 1e3}) {
      const Outcome outcome =
          run(testbed::problem("rosenbrock"), method("gradient-descent", {{"rule", "backtracking"}, {"step", step}}),
              {.stop = {.iterations = 300}});
      const auto values = outcome.trace.column("value");
      CHECK(std::is_sorted(values.rbegin(), values.rend()));
      CHECK(values.back() < 4.2);
    }
  }

  TEST_CASE("the path on a shifted problem is the shifted path") {
    const Problem plain = Problem::from_formula("x^4 + 3*y^2 + x*y"),
                  moved = Problem::from_formula("(x - 2)^4 + 3*(y + 4)^2 + (x - 2)*(y + 4)");
    for (const char* rule : {"fixed", "exact", "backtracking"}) {
      const Method descent = method("gradient-descent", {{"rule", rule}, {"step", 0.0625}});
      const Outcome a = run(plain, descent, testing::exactly(10, {1, 1})),
                    b = run(moved, descent, testing::exactly(10, {3, -3}));
      CHECK((a.last_point - b.last_point - Vector{{-2, 4}}).norm() < 1e-9);
    }
  }

  TEST_CASE("every rule stays within bounds and finds the minimum on them") {
    const Problem fenced = quadratic().bounds({2, -1}, {7, 7});
    for (const char* rule : {"fixed", "exact", "backtracking"}) {
      CAPTURE(rule);
      const Outcome outcome =
          run(fenced, method("gradient-descent", {{"rule", rule}, {"step", 0.3}}), {.start = Coordinates{6, 6}});
      CHECK(outcome.converged());
      CHECK((outcome.point - Vector{{2, -1}}).norm() < 1e-8);
      CHECK(outcome.events.outside_bounds == 0);
      for (const double violation : outcome.trace.column("violation")) CHECK(violation == 0);
    }
  }

  TEST_CASE("a search along a ray finds a stationary point to the tolerance of its slope, near or far") {
    for (const double far : {1e-6, 1.0, 1e6}) {
      CAPTURE(far);
      const Problem problem = Problem::from_formula("cosh(x/a - 1) + 0.1*(x/a - 1)^4", {}, {{"a", far}});
      Evaluator evaluate(problem, {}, DerivativeMode::exact);
      methods::RaySearch ray;
      const Vector from = Vector::Zero(1), direction = Vector::Ones(1);
      const auto [value, gradient] = evaluate.value_and_gradient(from);
      const auto minimum = ray.minimize(evaluate, from, value, direction, gradient[0], 0.01, INFINITY);
      CHECK(minimum.found);
      CHECK(minimum.step == doctest::Approx(far).epsilon(1e-9));
      CHECK(minimum.trials <= 40);
    }
  }

  TEST_CASE("a search along a ray ends at the longest step where the value still falls") {
    const Problem problem = Problem::from_formula("-x");
    Evaluator evaluate(problem, {}, DerivativeMode::exact);
    methods::RaySearch ray;
    const auto minimum = ray.minimize(evaluate, Vector::Zero(1), 0, Vector::Ones(1), -1, 0.01, 3);
    CHECK_FALSE(minimum.found);
    CHECK(minimum.step == 3);
    CHECK(ray.point[0] == 3);
  }

  TEST_CASE("a search along a ray steps back from where there is no value") {
    const Problem problem = Problem::from_formula("-sqrt(1 - x) - x"); // falls to x = 3/4, no value beyond 1
    Evaluator evaluate(problem, {}, DerivativeMode::exact);
    methods::RaySearch ray;
    const auto minimum = ray.minimize(evaluate, Vector::Zero(1), -1, Vector::Ones(1), -0.5, 50, INFINITY);
    CHECK(minimum.found);
    CHECK(minimum.step == doctest::Approx(0.75).epsilon(1e-9));
  }
}
