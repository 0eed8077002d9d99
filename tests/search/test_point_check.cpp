#include "tanzen/search/point_check.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

PointCheck::Verdict verdict_at(const Problem& problem, const Vector& x, const CheckOptions& options = {}) {
  return check_point(problem, x, options).verdict;
}

} // namespace

TEST_SUITE("the check of a point") {
  TEST_CASE("the known minima of the test functions are stationary, and points beside them are not") {
    int looked = 0;
    for (const char* name : {"sphere:dim=4", "rosenbrock:dim=6", "himmelblau", "branin", "six-hump-camel", "beale",
                             "rastrigin:dim=3", "styblinski-tang:dim=3", "matyas", "booth"}) {
      CAPTURE(std::string(name));
      const Problem problem = testbed::parse_problem(name);
      for (const KnownMinimum& minimum : problem.known_minima()) {
        ++looked;
        CHECK(verdict_at(problem, minimum.point, {.tolerance = 1e-3}) == PointCheck::Verdict::stationary);
        CHECK(verdict_at(problem, minimum.point + Vector::Constant(problem.dimension(), 0.1)) ==
              PointCheck::Verdict::not_stationary);
        if (problem.parts().residuals == 0) // a fit can only be minimized
          CHECK(verdict_at(problem.maximized(), minimum.point, {.tolerance = 1e-3}) == PointCheck::Verdict::stationary);
      }
    }
    CHECK(looked >= 10);
  }

  TEST_CASE("a slope counts as far as the bound that it points to lets it") {
    const Problem slope = Problem::from_formula("x + 2*y").bounds({1, 1}, {5, 5});
    CHECK(verdict_at(slope, Vector{{1, 1}}) == PointCheck::Verdict::stationary);
    CHECK(verdict_at(slope, Vector{{1, 1.5}}) == PointCheck::Verdict::not_stationary);
    CHECK(verdict_at(slope, Vector{{1, 1 + 1e-9}}) == PointCheck::Verdict::stationary);
    CHECK(verdict_at(slope, Vector{{5, 5}}) == PointCheck::Verdict::not_stationary);
    CHECK(verdict_at(slope.maximized(), Vector{{5, 5}}) == PointCheck::Verdict::stationary);
    CHECK(verdict_at(slope.maximized(), Vector{{1, 1}}) == PointCheck::Verdict::not_stationary);
    CHECK(check_point(slope, Vector{{1, 1}}).bound_multipliers == Vector{{1, 2}});
    CHECK(check_point(slope.maximized(), Vector{{5, 5}}).bound_multipliers == Vector{{1, 2}});
  }

  TEST_CASE("the units of a variable change nothing") {
    // The same bowl with x in units of a millionth and of a million.
    const Problem plain = Problem::from_formula("(x - 1)^2 + y^2 + 1");
    const Problem small = Problem::from_formula("(1e6*x - 1)^2 + y^2 + 1").start({1e-6, 0});
    const Problem large = Problem::from_formula("(1e-6*x - 1)^2 + y^2 + 1").start({1e6, 0});
    for (const double off : {0.0, 1e-7, 1e-3}) {
      const double expected = check_point(plain, Vector{{1 + off, 0}}).relative_gradient;
      CHECK(check_point(small, Vector{{1e-6 * (1 + off), 0}}).relative_gradient ==
            doctest::Approx(expected).epsilon(1e-6));
      CHECK(check_point(large, Vector{{1e6 * (1 + off), 0}}).relative_gradient ==
            doctest::Approx(expected).epsilon(1e-6));
    }
  }

  TEST_CASE("at a kink values decide, where they may be asked") {
    const Problem kink = Problem::from_formula("abs(x - 1) + 3*abs(y)");
    CHECK(verdict_at(kink, Vector{{1, 0}}, {.by_values = true}) == PointCheck::Verdict::stationary);
    CHECK(verdict_at(kink, Vector{{1 + 1e-13, 1e-13}}, {.by_values = true}) == PointCheck::Verdict::stationary);
    CHECK(verdict_at(kink, Vector{{1.01, 0}}, {.by_values = true}) == PointCheck::Verdict::not_stationary);
    // A valley along the diagonal is no minimum although no coordinate goes down.
    const Problem diagonal = Problem::from_formula("10*abs(x - y) + x");
    CHECK(verdict_at(diagonal, Vector{{2, 2}}, {.by_values = true}) == PointCheck::Verdict::not_stationary);
    // The lowest of three planes: their corner is it, an edge is not.
    const Problem planes = Problem::from_formula("max(max(x + 2*y, x - 3*y), -4*x)");
    CHECK(verdict_at(planes, Vector{{0, 0}}, {.by_values = true}) == PointCheck::Verdict::stationary);
    CHECK(verdict_at(planes, Vector{{1, 0}}, {.by_values = true}) == PointCheck::Verdict::not_stationary);
    for (const Index n : {3, 10, 40}) {
      CAPTURE(n);
      const Problem wide = Problem::from_function(n, [n](const auto& x) {
        Expr most = 0.01 * x[0], edge;
        for (Index i = 1; i < n; ++i) edge += abs(x[i] - x[i - 1]);
        return 5 * edge + abs(most);
      });
      CHECK(verdict_at(wide, Vector::Zero(n), {.by_values = true}) == PointCheck::Verdict::stationary);
      CHECK(verdict_at(wide, Vector::Ones(n), {.by_values = true}) == PointCheck::Verdict::not_stationary);
    }
  }

  TEST_CASE("a function that is only called is looked at where that was asked for, and at no other cost") {
    int calls = 0;
    const Problem called = Problem::black_box(2, [&calls](const Vector& x) {
      ++calls;
      return x.squaredNorm();
    });
    const PointCheck unasked = check_point(called, Vector{{0, 0}});
    CHECK(unasked.verdict == PointCheck::Verdict::unknown);
    CHECK(unasked.evaluations == 0);
    CHECK(calls == 0);
    const PointCheck asked = check_point(called, Vector{{0, 0}}, {.by_values = true, .opaque = true});
    CHECK(asked.verdict == PointCheck::Verdict::stationary);
    CHECK(asked.evaluations == calls);
    CHECK(calls <= 12 * 2 + 4);
    CHECK(verdict_at(called, Vector{{0.1, 0}}, {.by_values = true, .opaque = true}) ==
          PointCheck::Verdict::not_stationary);
  }

  TEST_CASE("noise is taken away before a point is looked at") {
    const Problem noisy = Problem::from_formula("(x - 1)^2 + y^2").noisy(Noise::parse("normal:0.1"));
    CHECK(verdict_at(noisy, Vector{{1, 0}}) == PointCheck::Verdict::stationary);
    CHECK(verdict_at(noisy, Vector{{1.2, 0}}) == PointCheck::Verdict::not_stationary);
  }

  TEST_CASE("constraints: feasible, active with the right sign, or not") {
    const Problem least = Problem::from_formula("x^2 + y^2").with_constraint("line", "x + y >= 2");
    const PointCheck there = check_point(least, Vector{{1, 1}});
    CHECK(there.verdict == PointCheck::Verdict::stationary);
    CHECK(there.constraints[0].active);
    CHECK(there.constraints[0].multiplier == doctest::Approx(2)); // d/dt of t^2/2 at t = 2
    CHECK(there.kkt < 1e-12);
    CHECK(verdict_at(least, Vector{{0, 0}}) == PointCheck::Verdict::not_stationary);
    CHECK(check_point(least, Vector{{0, 0}}).violation == 2);
    CHECK(verdict_at(least, Vector{{1.5, 0.5}}) == PointCheck::Verdict::not_stationary);
    CHECK(verdict_at(least, Vector{{2, 2}}) == PointCheck::Verdict::not_stationary);
    const Problem other = Problem::from_formula("x^2 + y^2").with_constraint("line", "x + y <= 2");
    CHECK(verdict_at(other, Vector{{1, 1}}) ==
          PointCheck::Verdict::not_stationary); // the same point, held from the wrong side
    CHECK(verdict_at(other, Vector{{0, 0}}) == PointCheck::Verdict::stationary);
    const Problem on_it = Problem::from_formula("x^2 + y^2").with_constraint("line", "x + y = 2");
    CHECK(verdict_at(on_it, Vector{{1, 1}}) == PointCheck::Verdict::stationary);
    CHECK(verdict_at(on_it, Vector{{2, 0}}) == PointCheck::Verdict::not_stationary);
  }

  TEST_CASE("several objectives have no such check, and say so") {
    const Problem two = Problem::from_formula("x^2 + y^2").with_objective({.name = "far", .text = "(x - 2)^2"});
    const PointCheck check = check_point(two, Vector{{0, 0}});
    CHECK(check.verdict == PointCheck::Verdict::unknown);
    CHECK(check.how == "several objectives: the front is the answer");
  }

  TEST_CASE("a gradient that is no number is no claim") {
    const PointCheck check = check_point(Problem::from_formula("sqrt(x)"), Vector{{0}});
    CHECK(check.verdict == PointCheck::Verdict::not_stationary);
    CHECK(check.how.find("no number") != std::string::npos);
  }
}
