#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <cmath>
#include <doctest/doctest.h>

using namespace tanzen;

namespace {

const Problem long_valley = testbed::problem("rosenbrock", 3);
const Vector place{{-1.2, 1, 0.5}};

Problem opaque_long_valley() {
  return Problem::black_box(3, [](const Vector& x) { return long_valley.value(x); });
}

/// Breaks down where the first variable is above 2, and has no value where it is above 1.
Problem fragile_valley() {
  return Problem::with_derivatives(
             3,
             [](const Vector& x) {
               if (x[0] > 2) throw BrokenEvaluation("the shelf fell");
               return x[0] > 1 ? std::log(1 - x[0]) : 3 + long_valley.value(x);
             },
             [](const Vector& x, Vector& gradient) { gradient = long_valley.gradient(x); })
      .start({0, 0, 0});
}

} // namespace

TEST_SUITE("the evaluator") {
  TEST_CASE("counts values, exact gradients, exact Hessians and Hessian products apart") {
    Evaluator evaluate(long_valley, {}, DerivativeMode::automatic);
    (void)evaluate(place);
    (void)evaluate.gradient(place);
    (void)evaluate.value_and_gradient(place);
    (void)evaluate.hessian(place);
    Vector product(3);
    evaluate.hessian_times(place, evaluate.last_gradient(), Vector::Ones(3), product);
    CHECK(evaluate.counts()[Spent::evaluations] == 2);
    CHECK(evaluate.counts()[Spent::gradients] == 3); // a product counts as one
    CHECK(evaluate.counts()[Spent::hessians] == 1);
    CHECK((product - long_valley.hessian(place) * Vector::Ones(3)).norm() <= 1e-10 * product.norm());
  }

  TEST_CASE("the Hessian of an opaque function and its products come from gradients") {
    Evaluator evaluate(opaque_long_valley(), {}, DerivativeMode::central);
    const Matrix exact = long_valley.hessian(place);
    const Matrix& hessian = evaluate.hessian(place);
    CHECK((hessian - exact).norm() <= 1e-3 * exact.norm());
    CHECK(hessian == hessian.transpose());
    CHECK(evaluate.counts()[Spent::evaluations] == 2 * 3 * 2 * 3);
    const Vector direction{{1, -2, 0.3}};
    const Vector at_place = evaluate.gradient(place);
    Vector product(3);
    evaluate.hessian_times(place, at_place, direction, product);
    CHECK((product - exact * direction).norm() <= 1e-3 * exact.norm());
    evaluate.hessian_times(place, at_place, Vector::Zero(3), product);
    CHECK(product.isZero(0));
  }

  TEST_CASE("a maximum is minimized with every derivative turned round") {
    const Problem hill = long_valley.maximized();
    Evaluator up(hill, {}, DerivativeMode::automatic), down(long_valley, {}, DerivativeMode::automatic);
    CHECK(up(place) == -down(place));
    CHECK(up.gradient(place) == -down.gradient(place));
    CHECK(up.hessian(place) == -down.hessian(place));
    Vector a(3), b(3);
    up.hessian_times(place, up.last_gradient(), Vector::Ones(3), a);
    down.hessian_times(place, down.last_gradient(), Vector::Ones(3), b);
    CHECK(a == -b);
  }

  TEST_CASE("what breaks down has no value, whether it was asked alone or with its gradient") {
    Evaluator evaluate(fragile_valley(), {}, DerivativeMode::automatic);
    const double least = evaluate(place);
    const Vector broken{{3, 0, 0}}, outside{{1.5, 0, 0}};
    CHECK(evaluate.value_and_gradient(broken).value == infinity);
    CHECK_FALSE(evaluate.last_gradient().allFinite());
    CHECK(evaluate(broken) == infinity);
    CHECK_FALSE(evaluate.gradient(broken).allFinite());
    CHECK(evaluate.events().broken == 3);
    CHECK(evaluate.events().outside_domain == 0);
    CHECK(evaluate.value_and_gradient(outside).value == infinity);
    CHECK(evaluate(outside) == infinity);
    CHECK(evaluate.events().outside_domain == 2);
    CHECK(evaluate.incumbent().value() == least);
    CHECK(evaluate.incumbent().point() == place);
    for (const char* name : {"bfgs", "gradient-descent", "newton", "lbfgs"}) {
      const Outcome outcome = run(fragile_valley(), method(name), {.stop = {.evaluations = 200}});
      CAPTURE(name);
      CHECK(outcome.value >= 3); // below its minimum there is nothing
    }
  }
}
