#include "tanzen/numeric/random.hpp"
#include "tanzen/statistics/fronts.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
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

  TEST_CASE("a volume is exactly that of inclusion and exclusion in whole numbers, with ties and points that are there "
            "twice") {
    for (std::uint64_t seed = 1; seed <= 2000; ++seed) {
      RandomStream random(seed, {"inclusion"});
      const Index objectives = 2 + random.below(5), count = 1 + random.below(8);
      Matrix points(objectives, count);
      for (double& value : points.reshaped()) value = static_cast<double>(random.below(7)); // 6 is not below
      if (count > 1) points.col(count - 1) = points.col(0);
      std::int64_t exact = 0;
      for (unsigned chosen = 1; chosen < (1U << static_cast<unsigned>(count)); ++chosen) {
        std::int64_t common = 1;
        int size = 0;
        for (Index i = 0; i < objectives; ++i) {
          double highest = 0;
          for (Index k = 0; k < count; ++k)
            if ((chosen >> static_cast<unsigned>(k) & 1U) != 0) highest = std::max(highest, points(i, k));
          common *= static_cast<std::int64_t>(6 - highest);
        }
        for (Index k = 0; k < count; ++k) size += static_cast<int>(chosen >> static_cast<unsigned>(k) & 1U);
        exact += size % 2 == 1 ? common : -common;
      }
      CAPTURE(points);
      CHECK(hypervolume(points, Vector::Constant(objectives, 6)) == static_cast<double>(exact));
    }
  }

  TEST_CASE("ranks with ties and points that are there twice are those of peeling") {
    for (std::uint64_t seed = 1; seed <= 300; ++seed) {
      RandomStream random(seed, {"ties"});
      const Index objectives = 2 + random.below(4);
      Matrix points(objectives, 30);
      for (double& value : points.reshaped()) value = static_cast<double>(random.below(5));
      const std::vector<int> ranks = nondominated_ranks(points);
      std::vector<Index> first;
      for (Index a = 0; a < points.cols(); ++a) {
        int expected = 0;
        bool is_first = true;
        for (Index b = 0; b < points.cols(); ++b) {
          if (dominates(points.col(b), points.col(a)))
            expected = std::max(expected, ranks[static_cast<std::size_t>(b)] + 1);
          is_first = is_first && (b >= a || points.col(b) != points.col(a));
        }
        CHECK(ranks[static_cast<std::size_t>(a)] == expected);
        if (expected == 0 && is_first) first.push_back(a);
      }
      CHECK(nondominated_points(points) == first);
    }
  }

  TEST_CASE("distances to a reference front count only what is worse") {
    const Matrix reference{{0, 1, 2}, {2, 1, 0}};
    CHECK(inverted_distance_plus(reference, reference) == 0);
    CHECK(additive_epsilon(reference, reference) == 0);
    // Lower everywhere: nothing is missed, and there is room to spare.
    const Matrix lower = (reference.array() - 0.5).matrix();
    CHECK(inverted_distance_plus(lower, reference) == 0);
    CHECK(additive_epsilon(lower, reference) == -0.5);
    // One point for three: it misses the ends by 1 in one objective each.
    const Matrix middle{{1}, {1}};
    CHECK(inverted_distance_plus(middle, reference) == doctest::Approx(2.0 / 3));
    CHECK(additive_epsilon(middle, reference) == 1);
  }

  TEST_CASE("points at even distances are even, in whatever units") {
    Matrix even(2, 5);
    even << 0, 1, 2, 3, 4, 400, 300, 200, 100, 0;
    CHECK(unevenness(even) == doctest::Approx(0).epsilon(1e-12));
    Matrix lumped = even;
    lumped.col(1) = Vector{{0.1, 390}};
    CHECK(unevenness(lumped) > 0.3);
    CHECK(std::isnan(unevenness(even.leftCols(2))));
  }

  TEST_CASE("an area that grows point by point is that of all points at once, whatever their order") {
    for (std::uint64_t seed = 1; seed <= 20; ++seed) {
      const Matrix points = random_points(2, 200, seed);
      CoveredArea area;
      for (Index k = 0; k < points.cols(); ++k) area.add(1 - points(0, k), 1 - points(1, k));
      CHECK(area.area() == doctest::Approx(hypervolume(points, Vector::Ones(2))).epsilon(1e-12));
    }
  }

  TEST_CASE("what a point contributes is what is lost without it") {
    for (const Index objectives : {2, 3, 4, 5}) {
      Matrix points = random_points(objectives, 30, 7);
      points.col(29) = points.col(3); // equal points cover nothing alone
      points.col(28).array() = 1.5;   // beyond the reference
      const Vector reference = Vector::Constant(objectives, 1.1);
      const Vector own = hypervolume_contributions(points, reference);
      const double all = hypervolume(points, reference);
      for (Index k = 0; k < points.cols(); ++k) {
        std::vector<Index> others;
        for (Index other = 0; other < points.cols(); ++other)
          if (other != k) others.push_back(other);
        CHECK(own[k] == doctest::Approx(all - hypervolume(points(Eigen::all, others), reference)).epsilon(1e-9));
      }
      CHECK(own[3] == 0);
      CHECK(own[28] == 0);
    }
  }

  TEST_CASE("points that are spread over a front keep its ends, and leave no gap twice as wide as need be") {
    Matrix line(2, 1000);
    for (Index k = 0; k < 1000; ++k) line.col(k) << static_cast<double>(k), 999 - static_cast<double>(k);
    const std::vector<Index> some = spread_points(line, 11);
    REQUIRE(some.size() == 11);
    CHECK(some.front() == 0);
    CHECK(some.back() == 999);
    for (std::size_t k = 1; k < some.size(); ++k) CHECK(some[k] - some[k - 1] <= 200);
    CHECK(spread_points(line, 2000).size() == 1000);
    CHECK(spread_points(Matrix::Ones(3, 50), 10).size() == 1); // all alike
  }

  TEST_CASE("a surface that so many fronts attain: each point of it by so many, and nothing lower") {
    for (std::uint64_t seed = 1; seed <= 10; ++seed) {
      std::vector<Matrix> fronts;
      for (std::uint64_t k = 0; k < 7; ++k) fronts.push_back(random_points(2, 12, 100 * seed + k));
      const auto attained = [&](const Vector& place) {
        return std::ranges::count_if(fronts, [&](const Matrix& front) {
          return ((front.colwise() - place).array() <= 0).colwise().all().any();
        });
      };
      for (Index count = 1; count <= 7; ++count) {
        const Matrix surface = attainment_surface(fronts, count);
        for (Index k = 0; k < surface.cols(); ++k) {
          const Vector place = surface.col(k);
          CHECK(attained(place) >= count);
          CHECK(attained(place - Vector{{1e-9, 0}}) < count);
          CHECK(attained(place - Vector{{0, 1e-9}}) < count);
        }
        // Whatever is attained lies above the surface.
        const Matrix places = random_points(2, 200, seed + 50);
        for (Index k = 0; k < places.cols(); ++k) {
          const bool is_above = ((surface.colwise() - places.col(k)).array() <= 0).colwise().all().any();
          CHECK(is_above == (attained(places.col(k)) >= count));
        }
      }
    }
    CHECK(attainment_surface({Matrix(2, 0), Matrix{{1}, {2}}}, 2).cols() == 0);
  }
}
