#include "tanzen/statistics/fronts.hpp"

#include <algorithm>
#include <cassert>
#include <functional>
#include <numeric>
#include <utility>

namespace tanzen {
namespace {

/// Points by how far they reach below the reference in each objective: larger is better, and all are above 0. A row of
/// `objectives` numbers a point.
class Reaches {
 public:
  explicit Reaches(std::size_t objectives) : objectives_(objectives) {}

  void clear() { numbers_.clear(); }
  void add(const double* point) { numbers_.insert(numbers_.end(), point, point + objectives_); }
  [[nodiscard]] std::size_t size() const { return numbers_.size() / objectives_; }
  [[nodiscard]] const double* operator[](std::size_t k) const { return numbers_.data() + k * objectives_; }
  [[nodiscard]] std::size_t objectives() const { return objectives_; }

  /// Adds a point unless one that is there covers it; takes away those that it covers.
  void add_if_it_counts(const double* point) {
    std::size_t kept = 0;
    for (std::size_t k = 0; k < size(); ++k) {
      const double* other = (*this)[k];
      if (covers(other, point)) {
        assert(kept == k); // what covers it would have covered what it covers
        return;
      }
      if (covers(point, other)) continue;
      if (kept != k) std::copy(other, other + objectives_, numbers_.data() + kept * objectives_);
      ++kept;
    }
    numbers_.resize(kept * objectives_);
    add(point);
  }

  /// The places of the points by rising reach in the last objective.
  [[nodiscard]] std::vector<std::size_t> by_last() const {
    std::vector<std::size_t> order(size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::ranges::sort(order, {}, [this](std::size_t k) { return (*this)[k][objectives_ - 1]; });
    return order;
  }

 private:
  [[nodiscard]] bool covers(const double* a, const double* b) const {
    for (std::size_t i = 0; i < objectives_; ++i)
      if (a[i] < b[i]) return false;
    return true;
  }

  std::size_t objectives_;
  std::vector<double> numbers_;
};

/// By a sweep along the last objective, from the farthest reach down.
double volume_in_space(const Reaches& points) {
  const std::vector<std::size_t> order = points.by_last();
  CoveredArea covered;
  double volume = 0;
  for (std::size_t k = order.size(); k-- > 0;) {
    const double* point = points[order[k]];
    covered.add(point[0], point[1]);
    volume += covered.area() * (point[2] - (k > 0 ? points[order[k - 1]][2] : 0));
  }
  return volume;
}

double volume_of(const Reaches& points) {
  const std::size_t objectives = points.objectives();
  if (objectives == 3) return volume_in_space(points);
  // What each point covers that none of those that reach at least as far in the last objective does: there they are all
  // as high as it, so that one objective less is left.
  const std::vector<std::size_t> order = points.by_last();
  Reaches limited(objectives - 1);
  std::vector<double> corner(objectives - 1);
  double volume = 0;
  for (std::size_t k = 0; k < order.size(); ++k) {
    const double* point = points[order[k]];
    limited.clear();
    for (std::size_t later = k + 1; later < order.size(); ++later) {
      const double* other = points[order[later]];
      for (std::size_t i = 0; i + 1 < objectives; ++i) corner[i] = std::min(point[i], other[i]);
      limited.add_if_it_counts(corner.data());
    }
    const double own = std::accumulate(point, point + objectives - 1, 1.0, std::multiplies<>());
    volume += point[objectives - 1] * (own - volume_of(limited));
  }
  return volume;
}

} // namespace

void CoveredArea::add(double x, double y) {
  auto right = std::ranges::lower_bound(steps_, x, {}, &std::pair<double, double>::first);
  double height = right == steps_.end() ? 0 : right->second; // of what is covered just left of x
  if (height >= y) return;
  auto first = right;
  double from = x;
  while (true) {
    const double to = first == steps_.begin() ? 0 : std::prev(first)->first;
    area_ += (from - to) * (y - height);
    if (first == steps_.begin() || std::prev(first)->second > y) break;
    --first;
    from = to;
    height = first->second;
  }
  if (right != steps_.end() && right->first == x) ++right;
  steps_.insert(steps_.erase(first, right), {x, y});
}

namespace {

/// How far a point of two objectives reaches below the reference in each.
struct Reach {
  double right, up;
  Index point;
};

/// Of the points that lie below the reference, from the one that reaches farthest to the right.
std::vector<Reach> reaches_by_right(const Matrix& points, const Vector& reference) {
  std::vector<Reach> reaches;
  for (Index k = 0; k < points.cols(); ++k) {
    const double right = reference[0] - points(0, k), up = reference[1] - points(1, k);
    if (right > 0 && up > 0) reaches.push_back({right, up, k});
  }
  std::ranges::sort(reaches, std::greater(), [](const Reach& reach) { return std::pair(reach.right, reach.up); });
  return reaches;
}

/// Each adds what it reaches higher than those before.
double area_towards(const Matrix& points, const Vector& reference) {
  double area = 0, height = 0;
  for (const Reach& reach : reaches_by_right(points, reference)) {
    if (reach.up <= height) continue;
    area += reach.right * (reach.up - height);
    height = reach.up;
  }
  return area;
}

/// A point that none covers has a rectangle to itself, between the next ones to the left and below, less what those
/// cover there that it covers itself.
Vector areas_alone(const Matrix& points, const Vector& reference) {
  const std::vector<Reach> reaches = reaches_by_right(points, reference);
  std::vector<std::size_t> steps; // places of those that none before them covers
  double height = 0;
  for (std::size_t k = 0; k < reaches.size(); ++k) {
    if (reaches[k].up <= height) continue;
    steps.push_back(k);
    height = reaches[k].up;
  }
  Vector own = Vector::Zero(points.cols());
  for (std::size_t step = 0; step < steps.size(); ++step) {
    const std::size_t place = steps[step], next = step + 1 < steps.size() ? steps[step + 1] : reaches.size();
    const double left = next < reaches.size() ? reaches[next].right : 0;
    height = step > 0 ? reaches[steps[step - 1]].up : 0;
    double area = (reaches[place].right - left) * (reaches[place].up - height);
    for (std::size_t k = place + 1; k < next; ++k) {
      if (reaches[k].up <= height) continue;
      area -= (reaches[k].right - left) * (reaches[k].up - height);
      height = reaches[k].up;
    }
    own[reaches[place].point] = std::max(0.0, area);
  }
  return own;
}

} // namespace

double hypervolume(const Matrix& points, const Vector& reference) {
  assert(points.rows() == reference.size());
  const Index objectives = points.rows();
  if (objectives == 2) return area_towards(points, reference);
  // One objective is three with a reach of 1 in the others.
  Reaches reaches(static_cast<std::size_t>(std::max<Index>(3, objectives)));
  Vector reach = Vector::Ones(std::max<Index>(3, objectives));
  for (Index k = 0; k < points.cols(); ++k) {
    reach.head(objectives) = reference - points.col(k);
    if (!(reach.array() > 0).all()) continue;
    // A sweep passes over what is covered; beyond three it pays to have it out of the way.
    objectives <= 3 ? reaches.add(reach.data()) : reaches.add_if_it_counts(reach.data());
  }
  return volume_of(reaches);
}

Vector hypervolume_contributions(const Matrix& points, const Vector& reference) {
  assert(points.rows() == reference.size());
  const Index count = points.cols(), objectives = points.rows();
  if (objectives == 2) return areas_alone(points, reference);
  Vector own = Vector::Zero(count);
  const auto rows = static_cast<std::size_t>(std::max<Index>(3, objectives));
  Vector reach = Vector::Ones(std::max<Index>(3, objectives)), corner = reach;
  for (Index k = 0; k < count; ++k) {
    reach.head(objectives) = reference - points.col(k);
    if (!(reach.array() > 0).all()) continue;
    Reaches limits(rows);
    bool is_covered = false;
    for (Index other = 0; other < count && !is_covered; ++other) {
      if (other == k) continue;
      corner.head(objectives) = (reference - points.col(other)).cwiseMin(reach.head(objectives));
      is_covered = corner == reach;
      if ((corner.array() > 0).all()) limits.add_if_it_counts(corner.data());
    }
    if (!is_covered) own[k] = std::max(0.0, reach.prod() - volume_of(limits));
  }
  return own;
}

} // namespace tanzen
