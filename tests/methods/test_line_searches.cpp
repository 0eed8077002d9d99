#include "tanzen/methods/line/armijo_step.hpp"
#include "tanzen/methods/line/bracket.hpp"
#include "tanzen/methods/line/wolfe_step.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <cmath>

using namespace tanzen;
using namespace tanzen::methods;

namespace {

/// A point and a descent direction on a problem, with what is known there.
struct Ray {
  Evaluator evaluate;
  Vector from, gradient, direction;
  double value, slope;

  Ray(const Problem& problem, const Coordinates& start)
      : evaluate(problem, {}, DerivativeMode::automatic), from(start.vector()), gradient(evaluate.gradient(from)),
        direction(-gradient), value(evaluate(from)), slope(-gradient.squaredNorm()) {}
};

} // namespace

TEST_SUITE("line searches") {
  TEST_CASE("a strong Wolfe step meets both conditions, from any first trial, on any smooth test function") {
    for (const char* name : {"rosenbrock", "himmelblau", "beale", "helical-valley", "wood", "brown-dennis"}) {
      for (const double first : {1e-8, 1e-3, 1.0, 1e4}) {
        for (const double curvature : {0.9, 0.1}) {
          CAPTURE(name);
          CAPTURE(first);
          const Problem problem = testbed::problem(name);
          Ray ray(problem, Vector(0.7 * problem.region().lower + 0.3 * problem.region().upper));
          WolfeSearch search;
          const WolfeSettings settings{.curvature = curvature};
          const LineStep step =
              search.find(ray.evaluate, ray.from, ray.value, ray.direction, ray.slope, first, settings);
          REQUIRE(step.accepted);
          CHECK(search.point == ray.from + step.step * ray.direction);
          CHECK(ray.evaluate.last_gradient() == problem.gradient(search.point));
          CHECK(step.value <= ray.value + 1e-4 * step.step * ray.slope);
          CHECK(std::abs(problem.gradient(search.point).dot(ray.direction)) <= curvature * std::abs(ray.slope));
          CHECK(step.trials <= 30); // a trial is at most ten times shorter than the last
        }
      }
    }
  }

  TEST_CASE("a Wolfe search steps back from where there is no value") {
    const Problem problem = Problem::from_formula("x - log(x)");
    Ray ray(problem, {3});
    WolfeSearch search;
    const LineStep step = search.find(ray.evaluate, ray.from, ray.value, ray.direction, ray.slope, 100);
    CHECK(step.accepted);
    CHECK(search.point[0] > 0);
  }

  TEST_CASE("where no condition can hold the lowest trial is returned, and no step where none is lower") {
    const Problem falling = Problem::from_formula("-x");
    Ray ray(falling, {0});
    WolfeSearch search;
    const LineStep far = search.find(ray.evaluate, ray.from, ray.value, ray.direction, ray.slope, 1, {.trials = 5});
    CHECK_FALSE(far.accepted);
    CHECK(far.value < -100);
    const Problem rising = Problem::black_box(1, [](const Vector& x) { return x[0]; });
    Ray up(rising, {0});
    up.direction = -up.direction;
    const LineStep none = search.find(up.evaluate, up.from, up.value, up.direction, -1, 1);
    CHECK(none.step == 0);
  }

  TEST_CASE("a Wolfe search within a longest step ends there when the value still falls") {
    const Problem problem = Problem::from_formula("(x - 10)^2");
    Ray ray(problem, {0});
    WolfeSearch search;
    const LineStep step = search.find(ray.evaluate, ray.from, ray.value, ray.direction, ray.slope, 1, {}, 0.05);
    CHECK(step.step == 0.05);
  }

  TEST_CASE("backtracking reaches the decrease it is asked for, and measures it along a projected step") {
    const Problem problem = Problem::from_formula("x^4 + y^2").bounds({0.5, -5}, {5, 5});
    Ray ray(problem, {2, 1});
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
