#include "contours.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <map>
#include <utility>

namespace tanzen {
namespace {

struct CellCorner {
  double x, y, place;
};

/// The points where one level crosses the sides of a cell, in the order of the sides: none, two or four.
std::vector<std::array<double, 2>> crossings(const std::array<CellCorner, 4>& corners, double level) {
  std::vector<std::array<double, 2>> points;
  for (std::size_t k = 0; k < 4; ++k) {
    const CellCorner& a = corners[k];
    const CellCorner& b = corners[(k + 1) % 4];
    if ((a.place < level) == (b.place < level)) continue;
    const double part = (level - a.place) / (b.place - a.place);
    points.push_back({a.x + part * (b.x - a.x), a.y + part * (b.y - a.y)});
  }
  return points;
}

} // namespace

double place_among(const std::vector<double>& levels, double value) {
  if (std::isnan(value)) return value;
  const auto above = std::ranges::upper_bound(levels, value);
  const auto k = static_cast<std::size_t>(above - levels.begin());
  if (k == 0) return 0.5;
  if (k == levels.size()) return static_cast<double>(k) + 0.5;
  return static_cast<double>(k) + (value - levels[k - 1]) / (levels[k] - levels[k - 1]);
}

namespace {

/// Calls `cell(corners)` for every cell of a grid whose corners all have a number.
template <class Cell>
void for_each_cell(const Vector& x, const Vector& y, const Matrix& places, const Cell& cell) {
  for (Index i = 0; i + 1 < places.rows(); ++i) {
    for (Index j = 0; j + 1 < places.cols(); ++j) {
      if (std::isnan(places.block<2, 2>(i, j).sum())) continue;
      cell(std::array<CellCorner, 4>{CellCorner{x[j], y[i], places(i, j)}, CellCorner{x[j + 1], y[i], places(i, j + 1)},
                                     CellCorner{x[j + 1], y[i + 1], places(i + 1, j + 1)},
                                     CellCorner{x[j], y[i + 1], places(i + 1, j)}});
    }
  }
}

void add_segments(const std::array<CellCorner, 4>& corners, double level, std::vector<ContourSegment>& segments) {
  const auto points = crossings(corners, level);
  for (std::size_t k = 0; k + 1 < points.size(); k += 2)
    segments.push_back({points[k][0], points[k][1], points[k + 1][0], points[k + 1][1]});
}

/// Joins pieces whose ends are one place, to a millionth of a cell.
class Joiner {
 public:
  Joiner(const std::vector<ContourSegment>& pieces, double across, double up)
      : pieces_(pieces), across_(1e6 / across), up_(1e6 / up), used_(pieces.size(), 0) {
    for (std::size_t k = 0; k < pieces.size(); ++k) {
      ends_.emplace(key(pieces[k].x1, pieces[k].y1), k);
      ends_.emplace(key(pieces[k].x2, pieces[k].y2), k);
    }
  }

  std::vector<Curve> curves() {
    std::vector<Curve> all;
    for (std::size_t k = 0; k < pieces_.size(); ++k) {
      if (used_[k] != 0) continue;
      used_[k] = 1;
      Curve curve{{pieces_[k].x2, pieces_[k].x1}, {pieces_[k].y2, pieces_[k].y1}};
      extend(curve);
      std::ranges::reverse(curve.x);
      std::ranges::reverse(curve.y);
      extend(curve);
      all.push_back(std::move(curve));
    }
    std::ranges::stable_sort(all, std::ranges::greater(), [](const Curve& curve) { return curve.x.size(); });
    return all;
  }

 private:
  using Key = std::pair<long long, long long>;

  [[nodiscard]] Key key(double x, double y) const { return {std::llround(x * across_), std::llround(y * up_)}; }

  /// With all pieces that follow its last place.
  void extend(Curve& curve) {
    for (bool goes_on = true; goes_on;) {
      goes_on = false;
      const Key end = key(curve.x.back(), curve.y.back());
      const auto [first, last] = ends_.equal_range(end);
      for (auto other = first; other != last && !goes_on; ++other) {
        const std::size_t k = other->second;
        if (used_[k] != 0) continue;
        used_[k] = 1;
        goes_on = true;
        const ContourSegment& piece = pieces_[k];
        const bool is_forward = key(piece.x1, piece.y1) == end;
        curve.x.push_back(is_forward ? piece.x2 : piece.x1);
        curve.y.push_back(is_forward ? piece.y2 : piece.y1);
      }
    }
  }

  const std::vector<ContourSegment>& pieces_;
  double across_, up_;
  std::multimap<Key, std::size_t> ends_;
  std::vector<char> used_;
};

} // namespace

std::vector<ContourSegment> contour_segments(const FieldLayer& field) {
  std::vector<ContourSegment> segments;
  const Matrix places = field.values.unaryExpr([&](double value) { return place_among(field.levels, value); });
  for_each_cell(field.x, field.y, places, [&](const std::array<CellCorner, 4>& corners) {
    const auto [least, most] = std::ranges::minmax(corners, {}, &CellCorner::place);
    for (double level = std::max(1.0, std::ceil(least.place)); level <= most.place; ++level)
      add_segments(corners, level, segments);
  });
  return segments;
}

std::vector<Curve> level_curves(const Vector& x, const Vector& y, const Matrix& values, double level) {
  if (x.size() < 2 || y.size() < 2) return {};
  std::vector<ContourSegment> segments;
  for_each_cell(x, y, values,
                [&](const std::array<CellCorner, 4>& corners) { add_segments(corners, level, segments); });
  return Joiner(segments, x[1] - x[0], y[1] - y[0]).curves();
}

} // namespace tanzen
