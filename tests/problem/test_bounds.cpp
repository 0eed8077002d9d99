#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/problem/bounds.hpp"
#include "tanzen/problem/differences.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

Bounds half_open() {
  return Bounds(Box{Vector{{0, -infinity, -1}}, Vector{{1, 2, infinity}}});
}

} // namespace

TEST_SUITE("bounds") {
  TEST_CASE("the projection is the nearest point within, and projecting again changes nothing") {
    const Bounds bounds = half_open();
    const Matrix points = uniform_points(Box{Vector::Constant(3, -5), Vector::Constant(3, 5)}, 200, RandomStream(3));
    const Matrix inside = uniform_points(Box{Vector{{0, -5, -1}}, Vector{{1, 2, 5}}}, 200, RandomStream(4));
    for (Index k = 0; k < points.cols(); ++k) {
      Vector moved = points.col(k);
      bounds.project(moved);
      CHECK(bounds.contains(moved));
      CHECK((moved - points.col(k)).norm() <= (inside.col(k) - points.col(k)).norm());
      Vector again = moved;
      bounds.project(again);
      CHECK(again == moved);
      CHECK(bounds.violation(points.col(k)) == doctest::Approx((moved - points.col(k)).lpNorm<1>()));
    }
  }

  TEST_CASE("the norm of the projected gradient is zero where no feasible step goes down, and only there") {
    const Bounds bounds = half_open();
    const Vector corner{{0, 2, -1}};
    CHECK(bounds.projected_gradient_norm(corner, Vector{{3, -4, 5}}) == 0); // all point out
    CHECK(bounds.projected_gradient_norm(corner, Vector{{-0.5, 0, 0}}) == 0.5);
    CHECK(bounds.projected_gradient_norm(corner, Vector{{-7, 0, 0}}) == 1); // as far as the other bound
    CHECK(bounds.projected_gradient_norm(Vector{{0.5, 0, 0}}, Vector{{0.3, 0, 0.4}}) == doctest::Approx(0.5));
    CHECK(Bounds(3).projected_gradient_norm(corner, Vector{{3, -4, 12}}) == doctest::Approx(13));
  }

  TEST_CASE("whether there are any") {
    CHECK(half_open().any());
    CHECK_FALSE(Bounds(3).any());
    CHECK(Bounds(3).violation(Vector::Constant(3, 1e300)) == 0);
    CHECK_FALSE(half_open().contains(Vector::Constant(3, std::nan(""))));
  }

  TEST_CASE("a step of a difference turns round at a bound, and has room where there is hardly any") {
    for (const double x : {0.0, 1.0, -3.0, 1e6, 1e-9}) {
      CAPTURE(x);
      const DifferencePair open = forward_pair(x, -infinity, infinity), turned = forward_pair(x, -infinity, x);
      CHECK(open.down == x);
      CHECK(open.up - x == doctest::Approx(std::sqrt(2.220446e-16) * std::max(1.0, std::abs(x))).epsilon(0.01));
      CHECK(std::max(turned.up, turned.down) <= x);
      CHECK(turned.up != turned.down);
      const DifferencePair both = central_pair(x, -infinity, infinity), one = central_pair(x, x, infinity);
      CHECK(both.up - x == doctest::Approx(x - both.down).epsilon(1e-3));
      CHECK(one.down >= x);
      CHECK(one.up > one.down);
      const DifferencePair narrow = central_pair(x, x - 1e-12, x + 1e-12 + 1e-9 * std::abs(x));
      CHECK(narrow.down >= x - 1e-12);
      CHECK(narrow.up <= x + 1e-12 + 1e-9 * std::abs(x));
    }
  }
}
