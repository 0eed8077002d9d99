// Fronts against their definitions, on sets with ties, copies and any order.
#include "tanzen/statistics/fronts.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <algorithm>
#include <cmath>
#include <set>

using namespace tanzen;

namespace {

/// Points on a small lattice, so that ties and copies are common.
Matrix lattice_points(Index objectives, Index most) {
  const Index count = *rc::gen::inRange<Index>(1, most + 1);
  Matrix points(objectives, count);
  for (double& value : points.reshaped()) value = static_cast<double>(*rc::gen::inRange(0, 7));
  return points;
}

/// The volume that points cover below a reference, by counting the cells of the lattice.
double counted(const Matrix& points, const Vector& reference) {
  double volume = 0;
  Vector cell = Vector::Zero(points.rows());
  for (;;) {
    bool is_covered = false;
    for (Index k = 0; k < points.cols() && !is_covered; ++k) is_covered = (points.col(k).array() <= cell.array()).all();
    volume += is_covered && (cell.array() < reference.array()).all() ? 1 : 0;
    Index axis = 0;
    while (axis < cell.size() && ++cell[axis] >= 8) cell[axis++] = 0;
    if (axis == cell.size()) return volume;
  }
}

Matrix shuffled(const Matrix& points) {
  std::vector<Index> order;
  for (Index k = 0; k < points.cols(); ++k) order.push_back(k);
  const auto turn = *rc::gen::inRange<Index>(0, points.cols());
  std::ranges::rotate(order, order.begin() + turn);
  std::ranges::reverse(order.begin(), order.begin() + points.cols() / 2);
  return points(Eigen::all, order);
}

} // namespace

TEST_SUITE("fronts by their definitions") {
  TEST_CASE("domination is irreflexive, asymmetric and transitive") {
    rc::check("domination is a strict order", [] {
      const Matrix points = lattice_points(*rc::gen::inRange<Index>(2, 5), 8);
      for (Index a = 0; a < points.cols(); ++a) {
        RC_ASSERT_FALSE(dominates(points.col(a), points.col(a)));
        for (Index b = 0; b < points.cols(); ++b) {
          RC_ASSERT_FALSE(dominates(points.col(a), points.col(b)) && dominates(points.col(b), points.col(a)));
          for (Index c = 0; c < points.cols(); ++c) {
            if (dominates(points.col(a), points.col(b)) && dominates(points.col(b), points.col(c)))
              RC_ASSERT(dominates(points.col(a), points.col(c)));
          }
        }
      }
    });
  }

  TEST_CASE("the nondominated points are those of rank 0: none of them dominated, every other one is") {
    rc::check("nondominated by definition", [] {
      const Matrix points = lattice_points(*rc::gen::inRange<Index>(2, 5), 25);
      const std::vector<Index> front = nondominated_points(points);
      const std::vector<int> ranks = nondominated_ranks(points);
      const std::set<Index> members(front.begin(), front.end());
      for (Index k = 0; k < points.cols(); ++k) {
        bool is_dominated = false;
        for (Index other = 0; other < points.cols(); ++other)
          is_dominated |= dominates(points.col(other), points.col(k));
        RC_ASSERT((ranks[static_cast<std::size_t>(k)] == 0) == !is_dominated);
        if (members.contains(k)) RC_ASSERT(!is_dominated);
      }
      RC_ASSERT(!front.empty());
    });
  }

  TEST_CASE("the volume is the part of the cells that are covered, in any order of the points") {
    rc::check("hypervolume by counting", [] {
      const Index objectives = *rc::gen::inRange<Index>(2, 5);
      const Matrix points = lattice_points(objectives, 12);
      const Vector reference = Vector::Constant(objectives, static_cast<double>(*rc::gen::inRange(3, 8)));
      const double expected = counted(points, reference);
      RC_ASSERT(std::abs(hypervolume(points, reference) - expected) < 1e-9);
      RC_ASSERT(std::abs(hypervolume(shuffled(points), reference) - expected) < 1e-9);
    });
  }

  TEST_CASE("contributions are what the volume loses without a point") {
    rc::check("contributions by definition", [] {
      const Index objectives = *rc::gen::inRange<Index>(2, 4);
      const Matrix all = lattice_points(objectives, 10);
      const Matrix points = all(Eigen::all, nondominated_points(all));
      const Vector reference = Vector::Constant(objectives, 8);
      const Vector contributions = hypervolume_contributions(points, reference);
      const double whole = hypervolume(points, reference);
      RC_ASSERT(contributions.size() == points.cols());
      for (Index k = 0; k < points.cols(); ++k) {
        std::vector<Index> others;
        for (Index other = 0; other < points.cols(); ++other) {
          if (other != k) others.push_back(other);
        }
        const double without = others.empty() ? 0 : hypervolume(points(Eigen::all, others), reference);
        RC_ASSERT(std::abs(contributions[k] - (whole - without)) < 1e-9);
      }
    });
  }

  TEST_CASE("a set is at no distance from itself, and additive epsilon is what must be taken off") {
    rc::check("distances of fronts", [] {
      const Index objectives = *rc::gen::inRange<Index>(2, 5);
      const Matrix reference = lattice_points(objectives, 10);
      RC_ASSERT(inverted_distance_plus(reference, reference) == 0);
      RC_ASSERT(additive_epsilon(reference, reference) <= 0);
      const double worse = *rc::gen::element(0.5, 1.0, 3.0);
      const Matrix moved = (reference.array() + worse).matrix();
      RC_ASSERT(std::abs(additive_epsilon(moved, reference) - worse) < 1e-12);
      RC_ASSERT(inverted_distance_plus(moved, reference) > 0);
      RC_ASSERT(inverted_distance_plus((reference.array() - worse).matrix(), reference) == 0); // better is no distance
    });
  }

  TEST_CASE("spread points are so many of the set, the ends among them") {
    rc::check("spread keeps ends", [] {
      Matrix front(2, *rc::gen::inRange<Index>(2, 60));
      for (Index k = 0; k < front.cols(); ++k)
        front.col(k) = Vector{{static_cast<double>(k), 100.0 / static_cast<double>(k + 1)}};
      const Index most = *rc::gen::inRange<Index>(2, 70);
      const std::vector<Index> kept = spread_points(front, most);
      RC_ASSERT(static_cast<Index>(kept.size()) == std::min(most, front.cols()));
      RC_ASSERT(std::set<Index>(kept.begin(), kept.end()).size() == kept.size());
      RC_ASSERT(std::ranges::find(kept, 0) != kept.end());
      RC_ASSERT(std::ranges::find(kept, front.cols() - 1) != kept.end());
    });
  }
}
