// Public transforms: what a moved, turned or stretched problem knows is what the plain one knows, moved with it.
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/problem/derivative_check.hpp"
#include "tanzen/problem/transform.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

using namespace tanzen;

namespace {

/// A transform that keeps what is known of minima exact.
Transform random_transform(Index n) {
  Transform transform{};
  transform.shift = Vector::Constant(n, *rc::gen::element(0.0, 0.25, -0.5));
  transform.rotation = *rc::gen::inRange<std::uint64_t>(0, 50);
  transform.stretch = *rc::gen::element(1.0, 1.0, 100.0);
  return transform;
}

const std::vector<std::string> smooth_names = {"sphere",      "rosenbrock",      "ellipsoid",
                                               "dixon-price", "styblinski-tang", "powell-singular"};

} // namespace

TEST_SUITE("transforms") {
  TEST_CASE("known minima move with the problem: their values and slopes stay") {
    rc::check("minima move", [] {
      const std::string name = *rc::gen::elementOf(smooth_names);
      const Problem plain = testbed::problem(name);
      const Problem moved = transformed(plain, random_transform(plain.dimension()));
      RC_ASSERT(moved.dimension() == plain.dimension());
      RC_ASSERT(moved.known_minima().size() == plain.known_minima().size());
      for (std::size_t k = 0; k < moved.known_minima().size(); ++k) {
        const KnownMinimum& minimum = moved.known_minima()[k];
        RC_ASSERT(minimum.value == plain.known_minima()[k].value);
        const double scale = 1 + std::abs(minimum.value);
        RC_ASSERT(std::abs(moved.value(minimum.point) - minimum.value) <= 1e-6 * scale);
      }
    });
  }

  TEST_CASE("derivatives of a moved problem are those of its own values") {
    rc::check("derivatives of transforms", [] {
      const Problem plain = testbed::problem(*rc::gen::elementOf(smooth_names));
      const Problem moved = transformed(plain, random_transform(plain.dimension()));
      const DerivativeChecks checks = check_derivatives(moved, 2, *rc::gen::inRange<std::uint64_t>(1, 1000));
      RC_ASSERT(checks.gradient.verdict != DerivativeCheck::Verdict::wrong_formula);
      RC_ASSERT(checks.hessian.has_value());
      RC_ASSERT(checks.hessian->verdict != DerivativeCheck::Verdict::wrong_formula);
    });
  }

  TEST_CASE("own problems are moved like those of the testbed, and stay solvable") {
    for (const std::uint64_t placement : {1u, 2u, 3u, 7u}) {
      const Problem own = Problem::from_formula("(a - 0.2)^2 + 4*(b - 0.1)^2 + a*b")
                              .named("own")
                              .region(-3, 3)
                              .known_minimum({0, 0}, 0.0);
      const Problem placed = transformed(own, {.placement = placement});
      const Outcome outcome = run(placed, method("bfgs"), {.start = {1, 1}});
      const Outcome plain = run(own, method("bfgs"), {.start = {1, 1}});
      CAPTURE(placement);
      CHECK(outcome.converged());
      CHECK(outcome.value == doctest::Approx(plain.value).epsilon(1e-8));
      CHECK((outcome.point - plain.point).norm() > 1e-3); // it did move
    }
  }

  TEST_CASE("no transform is none") {
    const Problem plain = testbed::problem("rosenbrock");
    const Problem same = transformed(plain, {});
    for (const Vector& x : {Vector{{0.5, 2}}, Vector{{-1.2, 1}}}) CHECK(same.value(x) == plain.value(x));
  }

  TEST_CASE("a rotation keeps lengths, repeats by its seed, and turns") {
    rc::check("rotations are orthogonal", [] {
      const Index n = *rc::gen::inRange<Index>(2, 12);
      const auto seed = *rc::gen::inRange<std::uint64_t>(1, 100000);
      const Matrix rotation = random_rotation(n, seed);
      RC_ASSERT((rotation * rotation.transpose() - Matrix::Identity(n, n)).cwiseAbs().maxCoeff() < 1e-12);
      RC_ASSERT((rotation - random_rotation(n, seed)).cwiseAbs().maxCoeff() == 0);
      RC_ASSERT((rotation - random_rotation(n, seed + 1)).cwiseAbs().maxCoeff() > 1e-3);
    });
  }

  TEST_CASE("constraints move with the objective") {
    const Problem kiln =
        Problem::from_formula("x^2 + y^2").with_constraint("line", "x + y >= 1").region(-2, 2).start({1, 1});
    const Problem moved = transformed(kiln, {.shift = {0.5, 0.5}});
    const Outcome plain = run(kiln, method("sequential-quadratic")),
                  shifted = run(moved, method("sequential-quadratic"));
    CHECK(shifted.value == doctest::Approx(plain.value).epsilon(1e-7));
    CHECK(shifted.violation <= 1e-6);
  }
}
