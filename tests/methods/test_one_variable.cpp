#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

const Problem smooth = Problem::from_formula("exp(x) - 3*x").bounds(-2, 4); // minimum at log 3

} // namespace

TEST_SUITE("one variable") {
  TEST_CASE("golden section shrinks its interval by 0.618 with each value") {
    const Outcome outcome = run(smooth, method("golden-section"), {.start = Coordinates{0}});
    const auto width = outcome.trace.column("width");
    for (std::size_t k = 2; k < width.size(); ++k)
      CHECK(width[k] / width[k - 1] == doctest::Approx(0.6180339887).epsilon(1e-6));
    CHECK(outcome.point[0] == doctest::Approx(std::log(3)).epsilon(1e-7));
    CHECK(outcome.counts[Spent::evaluations] == outcome.iterations + 3); // the start and the first pair
  }

  TEST_CASE("parabolas need a third of golden section's values, and never many more") {
    const auto cost = [](const Problem& problem, const char* name) {
      const Outcome outcome = run(problem, method(name), {.start = Coordinates{0.1}});
      CHECK(outcome.status == Status::method);
      return static_cast<double>(outcome.counts[Spent::evaluations]);
    };
    CHECK(cost(smooth, "parabolic") < 0.4 * cost(smooth, "golden-section"));
    const Problem kink = Problem::from_formula("abs(x - 0.3) + x/7").bounds(-2, 4);
    CHECK(cost(kink, "parabolic") < 3 * cost(kink, "golden-section"));
  }

  TEST_CASE("cubics converge in a few iterations and end on the slope") {
    const Outcome outcome = run(smooth, method("cubic"), {.start = Coordinates{0}});
    CHECK(outcome.iterations <= 6);
    CHECK(outcome.point[0] == doctest::Approx(std::log(3)).epsilon(1e-9));
  }

  TEST_CASE("without an interval a minimum is bracketed from the start, also uphill of the first step") {
    for (const char* name : {"golden-section", "parabolic", "cubic"}) {
      for (const double start : {-50.0, 0.0, 2.0, 300.0}) {
        CAPTURE(name);
        CAPTURE(start);
        const Outcome outcome =
            run(Problem::from_formula("(x - 7)^4 + x^2"), method(name), {.start = Coordinates{start}});
        CHECK(std::abs(Problem::from_formula("(x - 7)^4 + x^2").gradient(outcome.point)[0]) < 1e-3);
      }
    }
  }

  TEST_CASE("a minimum at an end of the interval is found there") {
    const Problem falling = Problem::from_formula("(x - 9)^2").bounds(0, 5);
    for (const char* name : {"golden-section", "parabolic", "cubic", "interval-scan"}) {
      CAPTURE(name);
      CHECK(run(falling, method(name), {.start = Coordinates{1}}).point[0] == doctest::Approx(5).epsilon(1e-6));
    }
  }

  TEST_CASE("a scan finds every known minimum of every one-variable test function, the best last") {
    for (const auto& function : testbed::all()) {
      if (function.dimensions.least != 1 || function.dimensions.most != 1 || function.objectives) continue;
      CAPTURE(function.name);
      const Problem problem = testbed::problem(function.name);
      const Outcome outcome = run(problem, method("interval-scan", {{"points", 20'000}}), {.trace = {.points = true}});
      // At a cusp the value is far less exact than the point.
      CHECK((outcome.gap.value_or(0) <= 1e-7 * (1 + std::abs(outcome.value)) || outcome.distance.value_or(1) <= 1e-7));
      CHECK(outcome.last_value == doctest::Approx(outcome.value).epsilon(1e-12));
    }
  }

  TEST_CASE("a scan counts six minima of a wave over a bowl, an end among them") {
    const Problem wave = Problem::from_formula("sin(3*x) + 0.1*x^2").region(-5, 5);
    const Outcome outcome = run(wave, method("interval-scan"));
    CHECK(outcome.trace.column("minima").back() == 6);
    CHECK(outcome.trace.column("at_end")[6] == 1);
  }

  TEST_CASE("an interval beyond the bounds is cut by them") {
    bool outside = false;
    const Problem fenced = Problem::black_box(1, [&](const Vector& x) {
                             outside = outside || x[0] < 0 || x[0] > 5;
                             return std::cos(x[0]);
                           }).bounds(0, 5);
    for (const char* name : {"golden-section", "parabolic", "cubic", "interval-scan"}) {
      CAPTURE(name);
      const Outcome outcome = run(fenced, method(name, {{"lower", -9}, {"upper", 9}}), {.start = Coordinates{2}});
      CHECK(outcome.value == doctest::Approx(-1));
    }
    CHECK_FALSE(outside);
  }

  TEST_CASE("more variables and a wrong interval are refused") {
    CHECK_THROWS_WITH_AS((void)run(testbed::problem("sphere", 2), method("parabolic")),
                         doctest::Contains("parabolic works in one variable, and sphere has 2; these can: "),
                         ProblemError);
    CHECK_THROWS_WITH_AS(
        (void)run(Problem::from_formula("x^2"), method("golden-section", {{"lower", 3}, {"upper", 1}})),
        "the interval's lower end 3 is not below its upper end 1", InputError);
  }
}
