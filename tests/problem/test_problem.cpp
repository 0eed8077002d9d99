#include "tanzen/base/errors.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/problem/bounds.hpp"
#include "tanzen/problem/differences.hpp"
#include "tanzen/problem/problem.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <limits>

using namespace tanzen;

TEST_SUITE("problem") {
  TEST_CASE("one definition gives value, gradient and Hessian") {
    const Problem traced =
        Problem::from_function(2, [](const auto& x) { return pow(x[0], 2) + 3 * pow(x[1], 2) - x[0] * x[1]; });
    const Problem formula = Problem::from_formula("x^2 + 3*y^2 - x*y");
    for (const Problem& problem : {traced, formula}) {
      CHECK(problem.value({2, 1}) == 5);
      CHECK(problem.gradient({2, 1}) == Vector{{3, 4}});
      Matrix hessian(2, 2);
      hessian << 2, -1, -1, 6;
      CHECK(problem.hessian({2, 1}) == hessian);
    }
    CHECK(formula.variable_names() == std::vector<std::string>{"x", "y"});
    CHECK(formula.formula() == "x^2 + 3*y^2 - x*y");
  }

  TEST_CASE("a change gives a changed copy and leaves the original") {
    const Problem problem = Problem::from_formula("x + y");
    const Problem changed = problem.named("sum").maximized().start({1, 2}).region({0, 0}, {1, 1});
    CHECK(problem.sense() == Sense::minimize);
    CHECK_FALSE(problem.start().has_value());
    CHECK(changed.sense() == Sense::maximize);
    CHECK(changed.name() == "sum");
    CHECK(*changed.start() == Vector{{1, 2}});
    CHECK(changed.minimized().sense() == Sense::minimize);
  }

  TEST_CASE("a braced list is always the coordinates") {
    const Problem problem = Problem::from_formula("x + y").bounds({-2, -1}, {2, 4});
    CHECK(problem.bounds().lower() == Vector{{-2, -1}});
    CHECK(Problem::from_formula("x").start({3}).start()->size() == 1);
  }

  TEST_CASE("the region falls back on the bounds, and then on the usual box") {
    const Problem problem = Problem::from_formula("x + y + z").bounds({0, -infinity, 2}, {4, infinity, infinity});
    CHECK_FALSE(problem.has_region());
    CHECK(problem.region().lower == Vector{{0, -10, 2}});
    CHECK(problem.region().upper == Vector{{4, 10, 12}});
    CHECK(problem.region({0, 0, 0}, {1, 1, 1}).has_region());
  }

  TEST_CASE("parameters are fixed numbers of a formula") {
    CHECK(Problem::from_formula("a*x^2", {}, {{"a", 3}}).value({2}) == 12);
    CHECK(Problem::from_formula("sum(i = 1..n, x[i])", {"x[4]"}).dimension() == 4);
  }

  TEST_CASE("the best known value is the best of the global minima, in the problem's sense") {
    const Problem problem =
        Problem::from_formula("x").known_minimum({1}, 4).known_minimum({2}, 3).known_minimum({3}, 1, false);
    CHECK(problem.best_known() == 3);
    CHECK(problem.maximized().best_known() == 4);
    CHECK_FALSE(Problem::from_formula("x").best_known().has_value());
    CHECK(Problem::from_formula("x").best_known(-7).best_known() == -7);
  }

  TEST_CASE("what cannot be a problem says why") {
    const Problem problem = Problem::from_formula("x + y");
    const double nan = std::numeric_limits<double>::quiet_NaN();
    CHECK_THROWS_WITH_AS((void)problem.start({1}),
                         doctest::Contains("the start has 1 coordinate, but x + y has 2 variables"), ProblemError);
    CHECK_THROWS_WITH_AS((void)problem.bounds({1, 0}, {0, 1}),
                         doctest::Contains("bounds of x are the wrong way round: lower 1 is above upper 0"),
                         ProblemError);
    CHECK_THROWS_WITH_AS((void)problem.bounds({nan, 0}, {0, 1}), doctest::Contains("is not a number"), ProblemError);
    CHECK_THROWS_WITH_AS((void)problem.region({-std::numeric_limits<double>::infinity(), 0}, {0, 1}),
                         doctest::Contains("must be finite"), ProblemError);
    CHECK_THROWS_WITH_AS(problem.check_start(Vector{{nan, 1}}), doctest::Contains("the start has x = nan"),
                         ProblemError);
    CHECK_THROWS_WITH_AS(problem.bounds({0, 0}, {1, 1}).check_start(Vector{{0.5, 2}}),
                         doctest::Contains("y = 2 is not within 0 and 1"), ProblemError);
    CHECK_THROWS_WITH_AS((void)Problem::from_function(0, [](const auto&) { return Expr(1); }),
                         doctest::Contains("at least 1 variable"), ProblemError);
    CHECK_THROWS_WITH_AS((void)Problem::from_formula("x + y", {"x", "x"}), doctest::Contains("named twice"),
                         InputError);
    CHECK_THROWS_WITH_AS((void)Problem::from_formula("x + y", {"x", "y"}, {{"x", 1}}),
                         doctest::Contains("both a variable and fixed"), InputError);
    CHECK_THROWS_WITH_AS((void)Problem::black_box(2, [](const Vector&) { return 0.0; }).gradient({1, 2}),
                         doctest::Contains("no exact gradient"), ProblemError);
  }

  TEST_CASE("bounds project, measure and tell when a gradient points out") {
    const Bounds bounds(Box{Vector{{0, 0}}, Vector{{1, 1}}});
    Vector x{{-2, 0.5}};
    CHECK(bounds.violation(x) == 2);
    bounds.project(x);
    CHECK(x == Vector{{0, 0.5}});
    CHECK(bounds.violation(x) == 0);
    CHECK(bounds.projected_gradient_norm(x, Vector{{3, 0}}) == 0); // pressed against the lower bound
    CHECK(bounds.projected_gradient_norm(x, Vector{{-0.25, 0}}) == 0.25);
    CHECK_FALSE(Bounds(3).any());
    CHECK(Bounds(2).projected_gradient_norm(Vector{{1, 1}}, Vector{{3, 4}}) == 5);
  }

  TEST_CASE("difference points stay within bounds and have steps that suit the variable") {
    CHECK(forward_pair(1, -10, 10).up == doctest::Approx(1 + 1.49e-8).epsilon(1e-9));
    CHECK(forward_pair(1, -10, 1).up < 1);
    CHECK(forward_pair(1, 1, 1).up == 1);
    const auto central = central_pair(1000, -1e9, 1e9);
    CHECK(central.up - central.down == doctest::Approx(2 * 1000 * std::cbrt(2.22e-16)).epsilon(1e-3));
    CHECK(central_pair(1, 1, 2).down == 1);
  }

  TEST_CASE("a long point is cut where it is shown") {
    CHECK(point_text(Vector{{3, -2.5}}) == "(3, -2.5)");
    CHECK(point_text(Vector::Zero(20), 6, 2) == "(0, 0, ... 20 in all)");
  }
}
