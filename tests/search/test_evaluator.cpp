#include "tanzen/search/evaluator.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

using namespace tanzen;

namespace {

const Problem valley = testbed::problem("rosenbrock", 3);
const Vector place{{-1.2, 1, 0.5}};

Problem opaque_valley() {
  return Problem::black_box(3, [](const Vector& x) { return valley.value(x); });
}

} // namespace

TEST_SUITE("the evaluator") {
  TEST_CASE("counts values, exact gradients, exact Hessians and Hessian products apart") {
    Evaluator evaluate(valley, {}, DerivativeMode::automatic);
    (void)evaluate(place);
    (void)evaluate.gradient(place);
    (void)evaluate.value_and_gradient(place);
    (void)evaluate.hessian(place);
    Vector product(3);
    evaluate.hessian_times(place, evaluate.last_gradient(), Vector::Ones(3), product);
    CHECK(evaluate.counts()[Spent::evaluations] == 2);
    CHECK(evaluate.counts()[Spent::gradients] == 3); // a product counts as one
    CHECK(evaluate.counts()[Spent::hessians] == 1);
    CHECK((product - valley.hessian(place) * Vector::Ones(3)).norm() <= 1e-10 * product.norm());
  }

  TEST_CASE("the Hessian of an opaque function and its products come from gradients") {
    Evaluator evaluate(opaque_valley(), {}, DerivativeMode::central);
    const Matrix exact = valley.hessian(place);
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
    const Problem hill = valley.maximized();
    Evaluator up(hill, {}, DerivativeMode::automatic), down(valley, {}, DerivativeMode::automatic);
    CHECK(up(place) == -down(place));
    CHECK(up.gradient(place) == -down.gradient(place));
    CHECK(up.hessian(place) == -down.hessian(place));
    Vector a(3), b(3);
    up.hessian_times(place, up.last_gradient(), Vector::Ones(3), a);
    down.hessian_times(place, down.last_gradient(), Vector::Ones(3), b);
    CHECK(a == -b);
  }
}
