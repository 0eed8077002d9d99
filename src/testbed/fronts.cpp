#include "fronts.hpp"

#include "tanzen/numeric/constants.hpp"
#include "tanzen/statistics/fronts.hpp"

#include <algorithm>
#include <cmath>
#include <memory>

namespace tanzen::testbed {
namespace {

/// What is nondominated of points of the plane, by the first objective.
Matrix nondominated(std::vector<PlanePoint> points) {
  if (!std::ranges::is_sorted(points)) std::ranges::sort(points); // most curves are
  Matrix front(2, static_cast<Index>(points.size()));
  Index kept = 0;
  double lowest = infinity;
  for (const auto& [first, second] : points) {
    if (!(second < lowest)) continue;
    lowest = second;
    front.col(kept++) << first, second;
  }
  return front.leftCols(kept);
}

KnownFront with_ends(KnownFront front) {
  constexpr Index dense = 20'000;
  const Matrix points = front.points(dense);
  front.ideal = points.rowwise().minCoeff();
  front.nadir = points.rowwise().maxCoeff();
  return front;
}

} // namespace

KnownFront plane_front(std::string stated, std::vector<FrontCurve> curves) {
  KnownFront front;
  front.stated = std::move(stated);
  front.points = [curves = std::move(curves)](Index count) {
    const Index each = std::max<Index>(2, count / static_cast<Index>(curves.size()));
    std::vector<PlanePoint> points;
    for (const FrontCurve& curve : curves)
      for (Index k = 0; k < each; ++k)
        points.push_back(
            curve.at(curve.from + (curve.to - curve.from) * static_cast<double>(k) / static_cast<double>(each - 1)));
    return nondominated(std::move(points));
  };
  return with_ends(std::move(front));
}

KnownFront plane_front(std::string stated, std::function<double(double)> second, double from, double to) {
  const auto at = [second = std::move(second)](double t) { return PlanePoint{t, second(t)}; };
  return plane_front(std::move(stated), {{at, from, to}});
}

KnownFront plane_front(std::string stated, const Matrix& points) {
  KnownFront front;
  front.stated = std::move(stated);
  front.points = [points](Index count) -> Matrix {
    if (points.cols() <= count) return points;
    std::vector<Index> some;
    for (Index k = 0; k < count; ++k) some.push_back(k * (points.cols() - 1) / std::max<Index>(1, count - 1));
    return points(Eigen::all, some);
  };
  return with_ends(std::move(front));
}

LowestInSteps::LowestInSteps(double from, double to)
    : from_(from), step_((to - from) / 20'000), lowest_(20'001, PlanePoint{infinity, infinity}) {}

void LowestInSteps::see(double first, double second) {
  const auto at = static_cast<std::size_t>(std::clamp((first - from_) / step_, 0.0, 20'000.0));
  PlanePoint& here = lowest_[at];
  if (second < here[1] || (second == here[1] && first < here[0])) here = {first, second};
}

Matrix LowestInSteps::front() const {
  std::vector<PlanePoint> seen = lowest_;
  std::erase_if(seen, [](const PlanePoint& point) { return point[1] == infinity; });
  return nondominated(std::move(seen));
}

Index steps_for(Index count, Index places) {
  return std::max<Index>(2, static_cast<Index>(std::pow(static_cast<double>(count), 1 / static_cast<double>(places))));
}

KnownFront space_front(std::string stated, Vector ideal, Vector nadir, std::function<Matrix(Index count)> points,
                       std::function<bool(const Vector& objectives)> covers) {
  return {.ideal = std::move(ideal),
          .nadir = std::move(nadir),
          .stated = std::move(stated),
          .points = std::move(points),
          .covers = std::move(covers)};
}

namespace {

/// The least third objective where the first two are at most so large.
struct HeightMap {
  static constexpr Index cells = 1000;
  Vector lower, upper;
  Matrix height = Matrix::Constant(cells, cells, infinity);

  [[nodiscard]] double place(double value, Index row) const {
    return (value - lower[row]) / (upper[row] - lower[row]) * static_cast<double>(cells);
  }
  void see(const std::array<double, 3>& f) {
    const double i = std::ceil(place(f[0], 0)), j = std::ceil(place(f[1], 1));
    if (i >= static_cast<double>(cells) || j >= static_cast<double>(cells)) return;
    double& here = height(std::max<Index>(0, static_cast<Index>(i)), std::max<Index>(0, static_cast<Index>(j)));
    here = std::min(here, f[2]);
  }
  void spread() {
    for (Index i = 0; i < cells; ++i)
      for (Index j = 0; j < cells; ++j) {
        if (i > 0) height(i, j) = std::min(height(i, j), height(i - 1, j));
        if (j > 0) height(i, j) = std::min(height(i, j), height(i, j - 1));
      }
  }
  [[nodiscard]] bool covers(const Vector& f) const {
    const auto i = static_cast<Index>(std::floor(place(f[0], 0))), j = static_cast<Index>(std::floor(place(f[1], 1)));
    return i >= 0 && j >= 0 && height(std::min(i, cells - 1), std::min(j, cells - 1)) <= f[2];
  }
};

} // namespace

KnownFront gridded_front(const std::function<std::array<double, 3>(double, double)>& at, double from, double to) {
  constexpr Index coarse = 150, fine = 1500;
  const auto grid = [at, from, to](Index side, const auto& see) {
    for (Index i = 0; i < side; ++i)
      for (Index j = 0; j < side; ++j) {
        const double step = (to - from) / static_cast<double>(side - 1);
        see(at(from + static_cast<double>(i) * step, from + static_cast<double>(j) * step));
      }
  };
  Matrix seen(3, coarse * coarse);
  Index count = 0;
  grid(coarse, [&](const std::array<double, 3>& f) { seen.col(count++) << f[0], f[1], f[2]; });
  const Matrix front = seen(Eigen::all, nondominated_points(seen));
  const Vector ideal = front.rowwise().minCoeff(), nadir = front.rowwise().maxCoeff();
  auto map = std::make_shared<HeightMap>();
  map->lower = ideal;
  map->upper = nadir + 0.2 * (nadir - ideal);
  grid(fine, [&](const std::array<double, 3>& f) { map->see(f); });
  map->spread();
  const auto points = [front](Index most) -> Matrix { return front(Eigen::all, spread_points(front, most)); };
  return space_front("computed from values on a grid of 1,500 x 1,500 points", ideal, nadir, points,
                     [map](const Vector& f) { return map->covers(f); });
}

RunningLeast::RunningLeast(std::function<double(double)> function) : function_(std::move(function)) {
  constexpr Index steps = 100'000;
  for (Index k = 0; k <= steps; ++k) {
    const double x = static_cast<double>(k) / static_cast<double>(steps), value = function_(x);
    const bool is_lower = least_.empty() || value < least_.back();
    places_.push_back(is_lower ? x : places_.back());
    least_.push_back(is_lower ? value : least_.back());
  }
}

double RunningLeast::operator()(double x) const {
  const auto last = static_cast<double>(least_.size() - 1);
  const double at = std::clamp(x, 0.0, 1.0);
  return std::min(least_[static_cast<std::size_t>(at * last)], function_(at));
}

double RunningLeast::place(double x) const {
  const auto last = static_cast<double>(places_.size() - 1);
  return places_[static_cast<std::size_t>(std::clamp(x, 0.0, 1.0) * last)];
}

std::vector<double> RunningLeast::places(Index count) const {
  std::vector<double> first;
  for (const double place : places_)
    if (first.empty() || place != first.back()) first.push_back(place);
  std::vector<double> some;
  for (Index k = 0; k < count; ++k)
    some.push_back(first[static_cast<std::size_t>(k) * (first.size() - 1) /
                         static_cast<std::size_t>(std::max<Index>(1, count - 1))]);
  return some;
}

} // namespace tanzen::testbed
