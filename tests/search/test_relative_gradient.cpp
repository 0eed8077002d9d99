#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/search/relative_gradient.hpp"
#include "tanzen/search/run.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

/// A lop-sided bowl with its least value 3 away from zero, in other units. Powers of ten round on the way.
Problem bowl_in_units(double values, double x_unit, double y_unit) {
  return Problem::from_function(2,
                                [=](const auto& p) {
                                  const Expr x = p[0] / x_unit, y = p[1] / y_unit;
                                  return values * (pow(x - 3, 2) + 20 * pow(y + 1 - 0.1 * x * x, 2) + pow(x, 4) / 50);
                                })
      .start(Vector{{-1.5 * x_unit, 0.5 * y_unit}})
      .region(Vector{{-5 * x_unit, -5 * y_unit}}, Vector{{5 * x_unit, 5 * y_unit}});
}

} // namespace

TEST_SUITE("relative gradients") {
  TEST_CASE("are of Dennis and Schnabel's section 7.2, with what a near bound leaves of a slope") {
    const Problem problem = Problem::from_formula("x + y").start({4, 0.5});
    CHECK(relative_gradient(problem, Vector{{1, 2}}, Vector{{3, -5}}, 10) == doctest::Approx(1.2)); // 3 * 4, 5 * 2
    CHECK(relative_gradient(problem.bounds({0.75, -9}, {9, 9}), Vector{{1, 2}}, Vector{{3, -0.1}}, 1) ==
          doctest::Approx(0.75)); // x can fall by a quarter
    CHECK(relative_gradient(problem, Vector{{1, 2}}, Vector{{0, 0}}, 0) == 0);
    CHECK(std::isinf(relative_gradient(problem, Vector{{1, 2}}, Vector{{1, 0}}, 0)));
    CHECK(std::isnan(relative_gradient(problem, Vector{{1, 2}}, Vector{{not_known, 0}}, 1)));
  }

  TEST_CASE("values are measured by themselves, or by what the run has changed them by") {
    CHECK(value_size(7, 100) == 7);
    CHECK(value_size(0.5, 100) == 1);
    CHECK(value_size(0, 1e-8) == 1e-8);
    CHECK(value_size(0, not_known) == 1);
  }

  TEST_CASE("a variable's size is what is given, its start, its bounds, its region, in this order") {
    const Problem plain = Problem::from_formula("x + y");
    CHECK(plain.typical_sizes() == Vector{{1, 1}});
    CHECK(plain.region({-4, -2}, {4, 2}).typical_sizes() == Vector{{4, 2}});
    CHECK(plain.region({-4, -2}, {4, 2}).bounds({-1, 0}, {1, 1e3}).typical_sizes() == Vector{{1, 500}});
    CHECK(plain.region({-4, -2}, {4, 2}).start({0, 30}).typical_sizes() == Vector{{4, 30}});
    const Problem scaled = plain.variables({{.name = "x", .scale = 0.01}, {.name = "y"}}).start({5, 5});
    CHECK(scaled.typical_sizes() == Vector{{0.01, 5}});
  }

  TEST_CASE("no verdict changes with the units of the value or of a variable by a million") {
    for (const char* by :
         {"bfgs", "lbfgs", "lbfgs-bounded", "conjugate-gradient", "newton", "newton-trust-region", "truncated-newton",
          "sr1", "nelder-mead", "powell", "quadratic-model", "pattern-search", "mesh-adaptive", "cma-es",
          "adaptive-differential-evolution", "particle-swarm", "rosenbrock-rotation"}) {
      CAPTURE(by);
      const RunOptions options{.seed = 4, .stop = {.evaluations = 30'000}};
      const Outcome plain = run(bowl_in_units(1, 1, 1), method(by), options);
      CHECK(plain.converged());
      for (const auto& [values, x, y] : {std::array{1e6, 1.0, 1.0}, std::array{1e-6, 1.0, 1.0},
                                         std::array{1.0, 1e6, 1e6}, std::array{1.0, 1e-6, 1e-6}}) {
        CAPTURE(values);
        CAPTURE(x);
        const Outcome told = run(bowl_in_units(values, x, y), method(by), options);
        CHECK(told.converged() == plain.converged());
        CHECK(told.point[0] / x == doctest::Approx(plain.point[0]).epsilon(1e-3));
        CHECK(told.point[1] / y == doctest::Approx(plain.point[1]).epsilon(1e-3));
      }
    }
  }

  TEST_CASE("a small unit is no convergence, and a run from its end is") {
    const Problem small = Problem::from_formula("1e-10*((x - 3)^2 + 100*(y + 1)^2)");
    const Outcome there = run(small, method("bfgs"), {.start = Coordinates{0, 0}});
    CHECK(there.converged());
    CHECK(there.point[0] == doctest::Approx(3).epsilon(1e-6));
    const Problem valley = Problem::from_formula("(1 - x)^2 + 100*(y - x^2)^2");
    for (const char* by : {"bfgs", "lbfgs", "newton", "nelder-mead", "conjugate-gradient"}) {
      CAPTURE(by);
      CHECK(run(valley, method(by), {.start = Coordinates{1, 1 + 1e-10}}).converged());
      CHECK(run(valley, method(by), {.start = Coordinates{1, 1}}).converged());
    }
  }
}
