#include "tanzen/numeric/random.hpp"
#include "tanzen/statistics/fronts.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <numeric>

using namespace tanzen;

namespace {

Matrix random_points(Index objectives, Index count, std::uint64_t seed) {
  RandomStream random(seed, {"fronts"});
  Matrix points(objectives, count);
  for (double& value : points.reshaped()) value = random.uniform();
  return points;
}

/// The volume by its definition: the part of the unit cube that some point is below, on a grid of cell centres.
double counted_volume(const Matrix& points, Index cells) {
  const Index objectives = points.rows();
  std::int64_t inside = 0, all = 1;
  for (Index k = 0; k < objectives; ++k) all *= cells;
  for (std::int64_t cell = 0; cell < all; ++cell) {
    Vector place(objectives);
    std::int64_t rest = cell;
    for (Index k = 0; k < objectives; ++k, rest /= cells)
      place[k] = (static_cast<double>(rest % cells) + 0.5) / static_cast<double>(cells);
    for (Index p = 0; p < points.cols(); ++p) {
      if (!(points.col(p).array() <= place.array()).all()) continue;
      ++inside;
      break;
    }
  }
  return static_cast<double>(inside) / static_cast<double>(all);
}

} // namespace

TEST_SUITE("fronts") {
  TEST_CASE("to dominate is to be nowhere worse and somewhere better") {
    CHECK(dominates(Vector{{1, 2}}, Vector{{1, 3}}));
    CHECK(dominates(Vector{{0, 2}}, Vector{{1, 3}}));
    CHECK_FALSE(dominates(Vector{{1, 2}}, Vector{{1, 2}}));
    CHECK_FALSE(dominates(Vector{{0, 4}}, Vector{{1, 3}}));
    CHECK_FALSE(dominates(Vector{{1, 3}}, Vector{{0, 4}}));
  }

  TEST_CASE("ranks are those of peeling front after front, whatever the order of the points") {
    for (const Index objectives : {2, 3, 5}) {
      const Matrix points = random_points(objectives, 60, 3);
      const std::vector<int> ranks = nondominated_ranks(points);
      for (Index a = 0; a < points.cols(); ++a) {
        // A point's rank is one more than the largest among those that dominate it.
        int expected = 0;
        for (Index b = 0; b < points.cols(); ++b) {
          if (dominates(points.col(b), points.col(a)))
            expected = std::max(expected, ranks[static_cast<std::size_t>(b)] + 1);
        }
        CHECK(ranks[static_cast<std::size_t>(a)] == expected);
      }
      const std::vector<int> backwards = nondominated_ranks(points.rowwise().reverse());
      CHECK(std::equal(ranks.begin(), ranks.end(), backwards.rbegin()));
    }
    CHECK(nondominated_ranks(Matrix(2, 0)).empty());
    CHECK(nondominated_ranks(Matrix::Ones(3, 4)) == std::vector<int>{0, 0, 0, 0});
  }

  TEST_CASE("volumes are those counted on a grid, in two, three and four objectives") {
    for (const auto& [objectives, cells] :
         {std::pair{Index{2}, Index{120}}, {Index{3}, Index{30}}, {Index{4}, Index{14}}}) {
      CAPTURE(objectives);
      for (const std::uint64_t seed : {1U, 2U}) {
        const Matrix points = random_points(objectives, 8, seed);
        const double exact = hypervolume(points, Vector::Ones(objectives));
        CHECK(std::abs(exact - counted_volume(points, cells)) < 3.0 / static_cast<double>(cells));
      }
    }
  }

  TEST_CASE("a volume grows by nothing but new ground, and knows no order") {
    for (const Index objectives : {2, 3}) {
      const Matrix points = random_points(objectives, 12, 9);
      const Vector reference = Vector::Ones(objectives);
      const double all = hypervolume(points, reference);
      CHECK(hypervolume(points.rowwise().reverse(), reference) == doctest::Approx(all).epsilon(1e-14));
      double before = 0;
      for (Index k = 1; k <= points.cols(); ++k) {
        const double now = hypervolume(points.leftCols(k), reference);
        CHECK(now >= before - 1e-15);
        before = now;
      }
      Matrix doubled(objectives, 2 * points.cols());
      doubled << points, points;
      CHECK(hypervolume(doubled, reference) == doctest::Approx(all).epsilon(1e-14));
      Matrix with_dominated(objectives, points.cols() + 1);
      with_dominated << points, (points.col(0).array() + 0.5 * (1 - points.col(0).array())).matrix();
      CHECK(hypervolume(with_dominated, reference) == doctest::Approx(all).epsilon(1e-14));
    }
  }

  TEST_CASE("what does not lie below the reference covers nothing") {
    const Vector reference{{1, 1}};
    CHECK(hypervolume(Matrix(2, 0), reference) == 0);
    Matrix points(2, 3);
    points << 1, 0.5, 2, 0.5, 1, -4;
    CHECK(hypervolume(points, reference) == 0);
    points.col(0) << 0.25, 0.5;
    CHECK(hypervolume(points, reference) == doctest::Approx(0.75 * 0.5));
  }

  TEST_CASE("a volume is measured in the objectives' units") {
    const Matrix points = random_points(3, 6, 4);
    const Vector units{{2, 10, 0.5}};
    const double scaled = hypervolume(units.asDiagonal() * points, units);
    CHECK(scaled == doctest::Approx(10 * hypervolume(points, Vector::Ones(3))).epsilon(1e-13));
    const Vector shift{{5, -3, 1}};
    CHECK(hypervolume(points.colwise() + shift, Vector::Ones(3) + shift) ==
          doctest::Approx(hypervolume(points, Vector::Ones(3))).epsilon(1e-12));
  }
}
