#include "support/text.hpp"
#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/statistics/summaries.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;
using testing::has_hint;

namespace {

Diagnosis diagnosed(const Problem& problem, const Method& by, const Coordinates& from, StopRules stop = {}) {
  return diagnose(problem, run(problem, by, {.start = from, .stop = stop, .trace = {.points = true}}));
}

} // namespace

TEST_SUITE("statistics") {
  TEST_CASE("Wilson's interval is that of the formula") {
    // 8 of 10: center (0.8 + z^2/20)/(1 + z^2/10), half width by hand with z = 1.959964.
    const Interval interval = wilson_interval(8, 10);
    CHECK(interval.lower == doctest::Approx(0.490162).epsilon(1e-5));
    CHECK(interval.upper == doctest::Approx(0.943318).epsilon(1e-5));
    CHECK(wilson_interval(0, 15).lower == 0);
    CHECK(wilson_interval(15, 15).upper == 1);
    CHECK(wilson_interval(0, 15).upper == doctest::Approx(1 - wilson_interval(15, 15).lower));
  }

  TEST_CASE("quantiles interpolate, and infinities stay in their places") {
    CHECK(median({3, 1, 2}) == 2);
    CHECK(median({4, 1, 2, 3}) == 2.5);
    CHECK(quantile({1, 2, 3, 4, 5}, 0.25) == 2);
    CHECK(quantile({1, 2, 3, 4}, 0.25) == 1.75);
    CHECK(median({1, 2, INFINITY}) == 2);
    CHECK(std::isinf(median({1, INFINITY, INFINITY})));
    CHECK(std::isinf(median({1, 2, INFINITY, INFINITY})));
    CHECK(quantile({7}, 0.9) == 7);
  }

  TEST_CASE("expected running time charges the failures to the successes") {
    const double spent[] = {100, 200, 1000};
    CHECK(expected_running_time(spent, 2) == 650);
    CHECK_FALSE(expected_running_time(spent, 0).has_value());
  }

  TEST_CASE("equal values share the mean of their ranks") {
    const double values[] = {5, 1, 5, 9, 1, 1};
    CHECK(mean_ranks(values) == std::vector<double>{4.5, 2, 4.5, 6, 2, 2});
  }
}

TEST_SUITE("kind of point") {
  TEST_CASE("the Hessian's eigenvalues tell minimum, maximum, saddle and degenerate apart") {
    const auto kind = [](const char* formula) {
      return curvature_at(Problem::from_formula(formula), Vector::Zero(2))->kind;
    };
    CHECK(kind("x^2 + 3*y^2") == PointKind::minimum);
    CHECK(kind("-x^2 - 3*y^2") == PointKind::maximum);
    CHECK(kind("x^2 - 3*y^2") == PointKind::saddle);
    CHECK(kind("x^2 + y^4") == PointKind::degenerate);
    CHECK(curvature_at(Problem::from_formula("x + y").bounds({0, 0}, {1, 1}), Vector::Zero(2))->kind ==
          PointKind::on_bounds);
    CHECK_FALSE(curvature_at(Problem::black_box(1, [](const Vector& x) { return x[0]; }), Vector::Zero(1)).has_value());
    CHECK(eigenvalue_text(*curvature_at(testbed::problem("himmelblau"), Vector{{3, 2}})) ==
          "Hessian eigenvalues 25.7 and 82.3");
  }
}

TEST_SUITE("hints") {
  const Problem bowl = Problem::from_formula("2*(x - 1)^2 + 0.7*(y + 2)^2");
  Method step_of(double step) {
    return method("gradient-descent", {{"step", step}});
  }

  TEST_CASE("a rising value blames the step and names the stable one") {
    const Diagnosis diagnosis = diagnosed(bowl, step_of(0.9), {6, -9});
    CHECK(has_hint(
        diagnosis,
        "the value rose in 12 of the last 12 iterations, so the step 0.9 is too long (a step below 0.5 is stable"));
    CHECK_FALSE(has_hint(diagnosed(bowl, step_of(0.48), {6, -9}), "the value rose"));
  }

  TEST_CASE("a path between two points is called a flip, a short one is not") {
    CHECK(
        has_hint(diagnosed(bowl, step_of(0.5), {6, -9}, {.iterations = 60}), "the path flips between the two points"));
    CHECK_FALSE(has_hint(diagnosed(bowl, step_of(0.48), {6, -9}, {.iterations = 30}), "flips"));
    CHECK_FALSE(has_hint(diagnosed(bowl, step_of(0.3), {6, -9}), "flips"));
  }

  TEST_CASE("a gradient that vanishes at a saddle is no minimum") {
    const Problem saddle = Problem::from_formula("x^2 - y^2 + y^4");
    CHECK(has_hint(diagnosed(saddle, step_of(0.1), {1, 0}), "the point is a saddle"));
    CHECK_FALSE(has_hint(diagnosed(saddle, step_of(0.1), {1, 0.1}), "saddle"));
  }

  TEST_CASE("a best point on a bound is told, one inside is not") {
    CHECK(has_hint(diagnosed(bowl.bounds({2, -9}, {7, 7}), step_of(0.3), {6, -9}), "sits on a bound of x"));
    CHECK_FALSE(has_hint(diagnosed(bowl.bounds({-9, -9}, {7, 7}), step_of(0.3), {6, -9}), "bound"));
  }

  TEST_CASE("a limit that came in the middle of progress is told, one after it is not") {
    CHECK(has_hint(diagnosed(bowl, step_of(0.01), {6, -9}, {.iterations = 20}), "still falling"));
    CHECK_FALSE(has_hint(diagnosed(bowl, step_of(0.3), {6, -9}, {.iterations = 200, .gradient_tolerance = {}}),
                         "still falling"));
  }

  TEST_CASE("a start without a value is told") {
    CHECK(has_hint(diagnosed(Problem::from_formula("log(x)*x"), step_of(0.1), {-1}), "no value at the start"));
    CHECK_FALSE(has_hint(diagnosed(Problem::from_formula("log(x)*x"), step_of(0.1), {1}), "no value at the start"));
  }

  TEST_CASE("steepest descent across a valley is called a zigzag, and its crawling has a condition number behind it") {
    const Problem valley = testbed::problem("ellipsoid", 2, {{"condition", 200}});
    const Diagnosis crawls =
        diagnosed(valley, method("gradient-descent", {{"rule", "exact"}}), {200, 1}, {.iterations = 60});
    CHECK(has_hint(crawls, "the path zigzags: 10 of the last 10 steps"));
    CHECK(has_hint(crawls, "curvatures differ by a factor of 200; try newton, bfgs or lbfgs"));
    const Diagnosis slow = diagnosed(testbed::problem("sphere", 2), method("gradient-descent", {{"step", 0.001}}),
                                     {3, 1}, {.iterations = 60});
    CHECK(has_hint(slow, "the step 0.001 could be 0.5 and still be stable"));
    CHECK_FALSE(has_hint(slow, "zigzags"));
    const Diagnosis steady =
        diagnosed(testbed::problem("sphere", 2), method("gradient-descent", {{"step", 0.2}}), {3, 1});
    CHECK_FALSE(has_hint(steady, "crawls"));
    CHECK_FALSE(has_hint(steady, "zigzags"));
  }

  TEST_CASE("a plateau under the start is told, a slope is not") {
    const Problem steps = Problem::from_formula("floor(x)^2 + floor(y)^2");
    CHECK(
        has_hint(diagnosed(steps, method("gradient-descent"), {3.5, 2.5}, {.iterations = 5, .gradient_tolerance = {}}),
                 "the start lies in a flat region"));
    CHECK_FALSE(has_hint(diagnosed(testbed::problem("sphere", 2), method("gradient-descent"), {3, 1}), "flat region"));
  }

  TEST_CASE("a floor of noise is told, progress above it is not") {
    const Problem noisy = testbed::parse_problem("sphere:noise=normal:1e-9");
    CHECK(has_hint(diagnosed(noisy, method("gradient-descent", {{"step", 0.1}}), {3, 2}, {.evaluations = 2000}),
                   "progress stopped at a floor"));
    const Problem plain = testbed::problem("sphere", 2);
    CHECK_FALSE(has_hint(diagnosed(plain, method("rmsprop", {{"step", 0.01}}), {3, 2}, {.iterations = 60}), "floor"));
    CHECK_FALSE(
        has_hint(diagnosed(plain, method("gradient-descent", {{"step", 0.999}}), {3, 2}, {.iterations = 60}), "floor"));
  }

  TEST_CASE("a good run gets no hint") {
    for (const Method& each : {step_of(0.3), method("nelder-mead"), method("gradient-descent", {{"rule", "exact"}})}) {
      CHECK(diagnosed(bowl, each, {6, -9}).hints.empty());
    }
  }
}
