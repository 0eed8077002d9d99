#include "tanzen/methods/line/armijo_step.hpp"
#include "tanzen/methods/line/bracket.hpp"
#include "tanzen/methods/line/line_search.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>
#include <rapidcheck.h>

#include <cmath>

using namespace tanzen;
using namespace tanzen::methods;

namespace {

/// A point and a descent direction on a problem, with what is known there.
struct TestRay {
  Evaluator evaluate;
  Vector from, gradient, direction;
  double value, slope;

  TestRay(const Problem& problem, const Coordinates& start)
      : evaluate(problem, {}, DerivativeMode::automatic), from(start.vector()), gradient(evaluate.gradient(from)),
        direction(-gradient), value(evaluate(from)), slope(-gradient.squaredNorm()) {}

  LineStep find(LineSearch& search, double first, double longest = std::numeric_limits<double>::infinity()) {
    return search.find(evaluate, from, value, direction, slope, first, longest);
  }
};

} // namespace

TEST_SUITE("line searches") {
  TEST_CASE("a step meets the conditions of its rule, from any first trial, on any smooth test function") {
    for (const char* name : {"rosenbrock", "himmelblau", "beale", "helical-valley", "wood", "brown-dennis"}) {
      for (const double first : {1e-8, 1e-3, 1.0, 1e4}) {
        for (const double curvature : {0.9, 0.1}) {
          for (const LineRule rule :
               {LineRule::wolfe, LineRule::more_thuente, LineRule::hager_zhang, LineRule::exact}) {
            CAPTURE(name);
            CAPTURE(first);
            CAPTURE(static_cast<int>(rule));
            const Problem problem = testbed::problem(name);
            TestRay ray(problem, Vector(0.7 * problem.region().lower + 0.3 * problem.region().upper));
            const auto search = make_line_search({.rule = rule, .curvature = curvature});
            const LineStep step = ray.find(*search, first);
            REQUIRE(step.accepted);
            CHECK(search->point == ray.from + step.step * ray.direction);
            CHECK(ray.evaluate.last_gradient() == problem.gradient(search->point));
            const double slope = problem.gradient(search->point).dot(ray.direction);
            CHECK(slope >= curvature * ray.slope);
            if (rule != LineRule::exact) CHECK(step.value <= ray.value + 1e-4 * step.step * ray.slope);
            if (rule != LineRule::hager_zhang) CHECK(slope <= -curvature * ray.slope);
            CHECK(step.trials <=
                  (rule == LineRule::exact ? 60 : 40)); // a trial is at most ten times shorter than the last
          }
        }
      }
    }
  }

  TEST_CASE("the search of 1994 takes the steps and the trials of its paper") {
    struct Row {
      double first, step;
      Index trials;
    };
    struct Table {
      const char* formula;
      double decrease, curvature;
      std::vector<Row> rows;
    };
    // Moré and Thuente, 1994, tables 1 to 6: functions 5.1 to 5.4 (Yanai, Ozawa and Kaneko, 1981), steps to two digits.
    const std::string convex =
        "(sqrt(1 + {0}^2) - {0})*sqrt((1 - x)^2 + {1}^2) + (sqrt(1 + {1}^2) - {1})*sqrt(x^2 + {0}^2)";
    const auto sums = [&](const char* a, const char* b) { return fmt::format(fmt::runtime(convex), a, b); };
    const std::string fourth = sums("0.001", "0.001"), fifth = sums("0.01", "0.001"), sixth = sums("0.001", "0.01");
    const std::vector<Table> tables{
        {"-x/(x^2 + 2)", 1e-3, 0.1, {{1e-3, 1.4, 6}, {1e-1, 1.4, 3}, {10, 10, 1}, {1e3, 37, 4}}},
        {"(x + 0.004)^5 - 2*(x + 0.004)^4", 0.1, 0.1, {{1e-3, 1.6, 12}, {1e-1, 1.6, 8}, {10, 1.6, 8}, {1e3, 1.6, 11}}},
        {"if(x <= 1 - 0.01, 1 - x, if(x >= 1 + 0.01, x - 1, (x - 1)^2/(2*0.01) + 0.01/2)) + "
         "2*(1 - 0.01)/(39*pi)*sin(39*pi/2*x)",
         0.1,
         0.1,
         {{1e-3, 1.0, 12}, {1e-1, 1.0, 12}, {10, 1.0, 10}, {1e3, 1.0, 13}}},
        {fourth.c_str(), 1e-3, 1e-3, {{1e-3, 0.08, 4}, {1e-1, 0.10, 1}, {10, 0.35, 3}, {1e3, 0.83, 4}}},
        {fifth.c_str(), 1e-3, 1e-3, {{1e-3, 0.075, 6}, {1e-1, 0.078, 3}, {10, 0.073, 7}, {1e3, 0.076, 8}}},
        {sixth.c_str(), 1e-3, 1e-3, {{1e-3, 0.93, 13}, {1e-1, 0.93, 11}, {10, 0.92, 8}, {1e3, 0.92, 11}}}};
    for (const Table& table : tables) {
      for (const Row& row : table.rows) {
        CAPTURE(table.formula);
        CAPTURE(row.first);
        const Problem problem = Problem::from_formula(table.formula);
        TestRay ray(problem, {0});
        ray.direction.setOnes();
        ray.slope = ray.gradient[0];
        const auto search = make_line_search(
            {.rule = LineRule::more_thuente, .decrease = table.decrease, .curvature = table.curvature});
        const LineStep step = ray.find(*search, row.first);
        CHECK(step.accepted);
        CHECK(step.step == doctest::Approx(row.step).epsilon(0.05));
        CHECK(step.trials == row.trials);
      }
    }
  }

  TEST_CASE("slopes tell where values are lost in rounding") {
    // Of a value of 1e9 a minimum at x = 1 of curvature 1 shows in no digit nearer than 5e-4.
    const Problem problem = Problem::from_formula("1e9 + 0.5*(x - 1)^2 + 0.001*(x - 1)^4");
    TestRay ray(problem, {1 + 2e-4});
    ray.direction[0] = -1;
    ray.slope = -ray.gradient[0];
    const auto search = make_line_search({.rule = LineRule::hager_zhang, .decrease = 0.49, .curvature = 0.02});
    const LineStep step = ray.find(*search, 1e-5);
    CHECK(step.accepted);
    CHECK(std::abs(search->point[0] - 1) <= 0.021 * 2e-4);
  }

  TEST_CASE("a search steps back from where there is no value") {
    const Problem problem = Problem::from_formula("x - log(x)");
    for (const LineRule rule : {LineRule::wolfe, LineRule::more_thuente, LineRule::hager_zhang}) {
      TestRay ray(problem, {3});
      const auto search = make_line_search({.rule = rule});
      CHECK(ray.find(*search, 100).accepted);
      CHECK(search->point[0] > 0);
    }
  }

  TEST_CASE("where no condition can hold the lowest trial is returned, and no step where none is lower") {
    const Problem falling = Problem::from_formula("-x");
    const Problem rising = Problem::black_box(1, [](const Vector& x) { return x[0]; });
    for (const LineRule rule : {LineRule::wolfe, LineRule::more_thuente, LineRule::hager_zhang}) {
      TestRay ray(falling, {0});
      const LineStep far = ray.find(*make_line_search({.rule = rule, .trials = 5}), 1);
      CHECK_FALSE(far.accepted);
      CHECK(far.value < -100);
      TestRay up(rising, {0});
      up.direction = -up.direction;
      up.slope = -1;
      CHECK(up.find(*make_line_search({.rule = rule}), 1).step == 0);
    }
  }

  TEST_CASE("a search within a longest step ends there when the value still falls") {
    const Problem problem = Problem::from_formula("(x - 10)^2");
    for (const LineRule rule : {LineRule::wolfe, LineRule::more_thuente, LineRule::hager_zhang, LineRule::exact}) {
      TestRay ray(problem, {0});
      const auto search = make_line_search({.rule = rule});
      CHECK(ray.find(*search, 1, 0.05).step == 0.05);
    }
  }

  TEST_CASE("backtracking reaches the decrease it is asked for, and measures it along a projected step") {
    const Problem problem = Problem::from_formula("x^4 + y^2").bounds({0.5, -5}, {5, 5});
    TestRay ray(problem, {2, 1});
    ArmijoSearch search;
    const LineStep step = search.find(ray.evaluate, ray.from, ray.value, ray.gradient, ray.direction, 1);
    CHECK(step.accepted);
    CHECK(search.point[0] >= 0.5);
    CHECK(step.value <= ray.value + 1e-4 * ray.gradient.dot(search.point - ray.from));
  }

  TEST_CASE("a non-monotone search accepts what is below the largest of the last values") {
    ReferenceValue reference(3);
    for (const double value : {9.0, 5.0, 1.0, 2.0}) reference.note(value);
    CHECK(reference.largest() == 5);
    ReferenceValue monotone(1);
    for (const double value : {9.0, 5.0}) monotone.note(value);
    CHECK(monotone.largest() == 5);
  }

  TEST_CASE("a downhill bracket holds a minimum, from any start and first step") {
    CHECK(rc::check("any start", [] {
      const double start = static_cast<double>(*rc::gen::inRange(-1000, 1000)) / 100;
      const double first = std::pow(10.0, *rc::gen::inRange(-6, 2));
      const Problem problem = Problem::from_formula("(x - 1)^2 + sin(x)");
      Evaluator evaluate(problem, {}, DerivativeMode::automatic);
      const double value = evaluate(Vector::Constant(1, start));
      const Bracket bracket = downhill_bracket(evaluate, {start, value}, first);
      RC_ASSERT(bracket.lower <= bracket.inside.x);
      RC_ASSERT(bracket.inside.x <= bracket.upper);
      RC_ASSERT(bracket.inside.value <= problem.value({bracket.lower}));
      RC_ASSERT(bracket.inside.value <= problem.value({bracket.upper}));
    }));
  }
}
