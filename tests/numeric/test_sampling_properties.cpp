// Samples have the properties that they are drawn for.
#include "tanzen/numeric/sampling.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <algorithm>
#include <cmath>
#include <set>

using namespace tanzen;

namespace {

Box any_box(Index n) {
  Box box{Vector(n), Vector(n)};
  for (Index i = 0; i < n; ++i) {
    box.lower[i] = static_cast<double>(*rc::gen::inRange(-100, 100));
    box.upper[i] = box.lower[i] + static_cast<double>(*rc::gen::inRange(1, 50)) / 4;
  }
  return box;
}

RandomStream any_stream() {
  return RandomStream(*rc::gen::arbitrary<std::uint64_t>(), {"samples"});
}

double binomial(Index n, Index k) {
  double result = 1;
  for (Index i = 1; i <= k; ++i) result = result * static_cast<double>(n - k + i) / static_cast<double>(i);
  return std::round(result);
}

} // namespace

TEST_SUITE("samples") {
  TEST_CASE("every point lies in its box, and the same stream gives the same points") {
    rc::check("samples lie in their box", [] {
      const Index n = *rc::gen::inRange<Index>(1, 9), count = *rc::gen::inRange<Index>(1, 60);
      const Box box = any_box(n);
      const RandomStream random = any_stream();
      for (const auto draw : {uniform_points, latin_hypercube_points, sobol_points}) {
        const Matrix points = draw(box, count, random);
        RC_ASSERT(points.rows() == n && points.cols() == count);
        RC_ASSERT(draw(box, count, random) == points);
        for (Index k = 0; k < count; ++k) RC_ASSERT(box.contains(points.col(k)));
      }
    });
  }

  TEST_CASE("a Latin hypercube has one point in each slice of each axis") {
    rc::check("slices have one point each", [] {
      const Index n = *rc::gen::inRange<Index>(1, 6), count = *rc::gen::inRange<Index>(2, 80);
      const Box box = any_box(n);
      const Matrix points = latin_hypercube_points(box, count, any_stream());
      for (Index i = 0; i < n; ++i) {
        std::set<Index> slices;
        for (Index k = 0; k < count; ++k) {
          const double part = (points(i, k) - box.lower[i]) / (box.upper[i] - box.lower[i]);
          slices.insert(std::clamp<Index>(static_cast<Index>(part * static_cast<double>(count)), 0, count - 1));
        }
        // Rounding may put a point at an edge into the slice beside it.
        RC_ASSERT(static_cast<Index>(slices.size()) >= count - 1);
      }
    });
  }

  TEST_CASE("Sobol's points halve each axis evenly, at every power of two") {
    for (const Index count : {16, 64, 256}) {
      const Index n = 5;
      const Box box{Vector::Zero(n), Vector::Ones(n)};
      const Matrix points = sobol_points(box, count, RandomStream(3, {"samples"}));
      for (Index i = 0; i < n; ++i) {
        const auto low = (points.row(i).array() < 0.5).count();
        CHECK(std::abs(static_cast<double>(low) - 0.5 * static_cast<double>(count)) <= 1);
      }
    }
  }

  TEST_CASE("a lattice on the simplex has as many points as there are ways, each a sum of 1") {
    for (const Index dimension : {2, 3, 4, 6}) {
      for (const Index parts : {1, 2, 5, 8}) {
        const Matrix points = simplex_lattice(dimension, parts);
        CHECK(static_cast<double>(points.cols()) == binomial(dimension + parts - 1, parts));
        CHECK((points.colwise().sum().array() - 1).abs().maxCoeff() < 1e-12);
        CHECK(points.minCoeff() >= 0);
      }
    }
  }

  TEST_CASE("a random order holds every place once") {
    rc::check("orders are permutations", [] {
      RandomStream random = any_stream();
      std::vector<Index> order = random_order(*rc::gen::inRange<Index>(0, 100), random);
      const auto size = static_cast<Index>(order.size());
      std::ranges::sort(order);
      for (Index k = 0; k < size; ++k) RC_ASSERT(order[static_cast<std::size_t>(k)] == k);
    });
  }
}
