#include "tanzen/statistics/fronts.hpp"
#include "tanzen/numeric/constants.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <limits>
#include <numeric>
#include <utility>

namespace tanzen {
namespace {

/// A front as its points come in lexicographic order: whether one of them dominates the next point.
class PlaneFront {
 public:
  [[nodiscard]] bool dominates(const Matrix& points, Index k) const { return last_ <= points(1, k); }
  void add(const Matrix& points, Index k) { last_ = points(1, k); }

 private:
  double last_ = 0; ///< the lowest second objective
};

/// In three objectives what counts of a front is its outline in the last two.
class SpaceFront {
 public:
  [[nodiscard]] bool dominates(const Matrix& points, Index k) const {
    const auto above = std::ranges::upper_bound(outline_, points(1, k), {}, &std::pair<double, double>::first);
    return above != outline_.begin() && std::prev(above)->second <= points(2, k);
  }
  void add(const Matrix& points, Index k) {
    const double y = points(1, k), z = points(2, k);
    const auto first = std::ranges::lower_bound(outline_, y, {}, &std::pair<double, double>::first);
    auto end = first;
    while (end != outline_.end() && end->second >= z) ++end;
    outline_.insert(outline_.erase(first, end), {y, z});
  }

 private:
  std::vector<std::pair<double, double>> outline_; ///< by rising second objective, and so by falling third
};

class ManyFront {
 public:
  [[nodiscard]] bool dominates(const Matrix& points, Index k) const {
    // The last ones are the likeliest: they are near in the first objective.
    return std::ranges::any_of(members_.rbegin(), members_.rend(),
                               [&](Index other) { return (points.col(other).array() <= points.col(k).array()).all(); });
  }
  void add(const Matrix&, Index k) { members_.push_back(k); }

 private:
  std::vector<Index> members_;
};

std::vector<Index> lexicographic_order(const Matrix& points) {
  std::vector<Index> order(static_cast<std::size_t>(points.cols()));
  std::iota(order.begin(), order.end(), Index{0});
  std::ranges::sort(order, [&](Index a, Index b) {
    return std::lexicographical_compare(points.col(a).begin(), points.col(a).end(), points.col(b).begin(),
                                        points.col(b).end());
  });
  return order;
}

/// What dominates a point comes before it, and where a front does all before that do.
template <class Front>
std::vector<int> ranks_by(const Matrix& points) {
  std::vector<int> ranks(static_cast<std::size_t>(points.cols()));
  std::vector<Front> fronts;
  Index before = -1;
  for (const Index k : lexicographic_order(points)) {
    if (before >= 0 && points.col(k) == points.col(before)) {
      ranks[static_cast<std::size_t>(k)] = ranks[static_cast<std::size_t>(before)];
      continue;
    }
    before = k;
    const auto own =
        std::ranges::partition_point(fronts, [&](const Front& front) { return front.dominates(points, k); });
    ranks[static_cast<std::size_t>(k)] = static_cast<int>(own - fronts.begin());
    if (own == fronts.end())
      fronts.emplace_back().add(points, k);
    else
      own->add(points, k);
  }
  return ranks;
}

} // namespace

bool dominates(Eigen::Ref<const Vector> a, Eigen::Ref<const Vector> b) {
  return (a.array() <= b.array()).all() && (a.array() < b.array()).any();
}

std::vector<int> nondominated_ranks(const Matrix& points) {
  if (points.rows() == 2) return ranks_by<PlaneFront>(points);
  if (points.rows() == 3) return ranks_by<SpaceFront>(points);
  return ranks_by<ManyFront>(points);
}

std::vector<Index> nondominated_points(const Matrix& points) {
  const std::vector<int> ranks = nondominated_ranks(points);
  std::vector<Index> found;
  for (Index k = 0; k < points.cols(); ++k) {
    if (ranks[static_cast<std::size_t>(k)] == 0) found.push_back(k);
  }
  // Equal ones stand side by side in lexicographic order; a stable sort by it keeps the first in front.
  std::ranges::stable_sort(found, [&](Index a, Index b) {
    return std::lexicographical_compare(points.col(a).begin(), points.col(a).end(), points.col(b).begin(),
                                        points.col(b).end());
  });
  const auto twice = std::ranges::unique(found, [&](Index a, Index b) { return points.col(a) == points.col(b); });
  found.erase(twice.begin(), twice.end());
  std::ranges::sort(found);
  return found;
}

double inverted_distance_plus(const Matrix& points, const Matrix& reference_front) {
  assert(points.cols() > 0 && reference_front.cols() > 0);
  double sum = 0;
  for (Index k = 0; k < reference_front.cols(); ++k) {
    const auto missed = (points.colwise() - reference_front.col(k)).cwiseMax(0.0);
    sum += missed.colwise().norm().minCoeff();
  }
  return sum / static_cast<double>(reference_front.cols());
}

double additive_epsilon(const Matrix& points, const Matrix& reference_front) {
  assert(points.cols() > 0 && reference_front.cols() > 0);
  double worst = -std::numeric_limits<double>::infinity();
  for (Index k = 0; k < reference_front.cols(); ++k)
    worst = std::max(worst, (points.colwise() - reference_front.col(k)).colwise().maxCoeff().minCoeff());
  return worst;
}

double unevenness(const Matrix& points) {
  const Index count = points.cols();
  if (count < 3) return std::numeric_limits<double>::quiet_NaN();
  const Vector lowest = points.rowwise().minCoeff(), range = points.rowwise().maxCoeff() - lowest;
  const Vector units = range.unaryExpr([](double width) { return width > 0 ? width : 1.0; });
  Vector nearest(count);
  for (Index k = 0; k < count; ++k) {
    Vector away = ((points.colwise() - points.col(k)).array().colwise() / units.array()).matrix().colwise().norm();
    away[k] = std::numeric_limits<double>::infinity();
    nearest[k] = away.minCoeff();
  }
  const double mean = nearest.mean();
  return mean > 0 ? (nearest.array() - mean).abs().mean() / mean : 0;
}

std::vector<Index> spread_points(const Matrix& points, Index most) {
  const Index count = points.cols();
  std::vector<Index> chosen;
  if (count <= most) {
    for (Index k = 0; k < count; ++k) chosen.push_back(k);
    return chosen;
  }
  const Vector lowest = points.rowwise().minCoeff(), range = points.rowwise().maxCoeff() - lowest;
  const Vector units = range.unaryExpr([](double width) { return width > 0 ? width : 1.0; });
  const Matrix scaled = (points.colwise() - lowest).array().colwise() / units.array();
  Vector nearest = Vector::Constant(count, std::numeric_limits<double>::infinity());
  const auto take = [&](Index k) {
    if (nearest[k] == 0 || static_cast<Index>(chosen.size()) == most) return;
    chosen.push_back(k);
    nearest = nearest.cwiseMin((scaled.colwise() - scaled.col(k)).colwise().squaredNorm().transpose());
    nearest[k] = 0;
  };
  Index next = 0;
  for (Index row = 0; row < points.rows(); ++row) {
    points.row(row).minCoeff(&next);
    take(next);
  }
  while (static_cast<Index>(chosen.size()) < most && nearest.maxCoeff(&next) > 0) take(next);
  std::ranges::sort(chosen);
  return chosen;
}

Matrix attainment_surface(const std::vector<Matrix>& fronts, Index count) {
  assert(count >= 1 && count <= static_cast<Index>(fronts.size()));
  struct Point {
    double first, second;
    std::size_t front;
  };
  std::vector<Point> points;
  for (std::size_t front = 0; front < fronts.size(); ++front)
    for (Index k = 0; k < fronts[front].cols(); ++k)
      points.push_back({fronts[front](0, k), fronts[front](1, k), front});
  std::ranges::sort(points, {}, &Point::first);
  // From left to right each front's lowest second objective so far; the count-th lowest of them is attained.
  std::vector<double> lowest(fronts.size(), infinity), order;
  Matrix surface(2, static_cast<Index>(points.size()));
  Index kept = 0;
  double before = infinity;
  for (std::size_t k = 0; k < points.size(); ++k) {
    const Point& point = points[k];
    lowest[point.front] = std::min(lowest[point.front], point.second);
    if (k + 1 < points.size() && points[k + 1].first == point.first) continue;
    order = lowest;
    std::ranges::nth_element(order, order.begin() + (count - 1));
    const double height = order[static_cast<std::size_t>(count - 1)];
    if (!(height < before)) continue;
    before = height;
    surface.col(kept++) << point.first, height;
  }
  return surface.leftCols(kept);
}

} // namespace tanzen
