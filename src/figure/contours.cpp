#include "contours.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace tanzen {
namespace {

struct Corner {
  double x, y, place;
};

/// The points where one level crosses the sides of a cell, in the order of the sides: none, two or four.
std::vector<std::array<double, 2>> crossings(const std::array<Corner, 4>& corners, double level) {
  std::vector<std::array<double, 2>> points;
  for (std::size_t k = 0; k < 4; ++k) {
    const Corner& a = corners[k];
    const Corner& b = corners[(k + 1) % 4];
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

std::vector<ContourSegment> contour_segments(const FieldLayer& field) {
  std::vector<ContourSegment> segments;
  const Matrix places = field.values.unaryExpr([&](double value) { return place_among(field.levels, value); });
  for (Index i = 0; i + 1 < places.rows(); ++i) {
    for (Index j = 0; j + 1 < places.cols(); ++j) {
      const std::array<Corner, 4> corners = {Corner{field.x[j], field.y[i], places(i, j)},
                                             Corner{field.x[j + 1], field.y[i], places(i, j + 1)},
                                             Corner{field.x[j + 1], field.y[i + 1], places(i + 1, j + 1)},
                                             Corner{field.x[j], field.y[i + 1], places(i + 1, j)}};
      const auto [least, most] = std::ranges::minmax(corners, {}, &Corner::place);
      if (std::isnan(places.block<2, 2>(i, j).sum())) continue;
      for (double level = std::max(1.0, std::ceil(least.place)); level <= most.place; ++level) {
        const auto points = crossings(corners, level);
        for (std::size_t k = 0; k + 1 < points.size(); k += 2) {
          segments.push_back({points[k][0], points[k][1], points[k + 1][0], points[k + 1][1]});
        }
      }
    }
  }
  return segments;
}

} // namespace tanzen
