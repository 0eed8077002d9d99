#include "tanzen/statistics/fronts.hpp"

#include <algorithm>
#include <cassert>
#include <numeric>

namespace tanzen {
namespace {

/// The places of columns, by rising values of a row.
std::vector<Index> sorted_by(const Matrix& points, Index row) {
  std::vector<Index> order(static_cast<std::size_t>(points.cols()));
  std::iota(order.begin(), order.end(), Index{0});
  std::ranges::sort(order, {}, [&](Index k) { return points(row, k); });
  return order;
}

double plane_area(const Matrix& points, const Vector& reference) {
  double area = 0, height = reference[1];
  for (const Index k : sorted_by(points, 0)) {
    if (points(1, k) >= height) continue;
    area += (reference[0] - points(0, k)) * (height - points(1, k));
    height = points(1, k);
  }
  return area;
}

/// All points lie below the reference.
double volume(const Matrix& points, const Vector& reference) {
  const Index objectives = points.rows();
  if (points.cols() == 0) return 0;
  if (objectives == 1) return reference[0] - points.row(0).minCoeff();
  if (objectives == 2) return plane_area(points, reference);
  const auto order = sorted_by(points, objectives - 1);
  double sum = 0;
  for (std::size_t k = 0; k < order.size(); ++k) {
    const double from = points(objectives - 1, order[k]);
    const double to = k + 1 < order.size() ? points(objectives - 1, order[k + 1]) : reference[objectives - 1];
    if (to == from) continue;
    const std::vector<Index> below(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(k) + 1);
    sum += (to - from) * volume(points.topRows(objectives - 1)(Eigen::all, below), reference.head(objectives - 1));
  }
  return sum;
}

} // namespace

bool dominates(Eigen::Ref<const Vector> a, Eigen::Ref<const Vector> b) {
  return (a.array() <= b.array()).all() && (a.array() < b.array()).any();
}

std::vector<int> nondominated_ranks(const Matrix& points) {
  const auto count = static_cast<std::size_t>(points.cols());
  std::vector<std::vector<std::size_t>> dominated(count);
  std::vector<std::size_t> dominators(count, 0);
  for (std::size_t i = 0; i < count; ++i) {
    for (std::size_t j = 0; j < count; ++j) {
      if (!dominates(points.col(static_cast<Index>(i)), points.col(static_cast<Index>(j)))) continue;
      dominated[i].push_back(j);
      ++dominators[j];
    }
  }
  std::vector<int> ranks(count, 0);
  std::vector<std::size_t> front;
  for (std::size_t i = 0; i < count; ++i) {
    if (dominators[i] == 0) front.push_back(i);
  }
  for (int rank = 0; !front.empty(); ++rank) {
    std::vector<std::size_t> next;
    for (const std::size_t i : front) {
      ranks[i] = rank;
      for (const std::size_t j : dominated[i]) {
        if (--dominators[j] == 0) next.push_back(j);
      }
    }
    front = std::move(next);
  }
  return ranks;
}

double hypervolume(const Matrix& points, const Vector& reference) {
  assert(points.rows() == reference.size());
  std::vector<Index> below;
  for (Index k = 0; k < points.cols(); ++k) {
    if ((points.col(k).array() < reference.array()).all()) below.push_back(k);
  }
  return volume(points(Eigen::all, below), reference);
}

} // namespace tanzen
