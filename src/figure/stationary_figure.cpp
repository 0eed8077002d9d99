#include "tanzen/figure/stationary_figure.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/field.hpp"
#include "tanzen/numeric/constants.hpp"

#include "constraint_layers.hpp"
#include "contours.hpp"
#include "path_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// A layer a kind, each with its own marker; `place` gives where a point stands.
template <class Place>
void add_kinds(Panel& panel, const StationaryPoints& found, const Place& place) {
  struct Look {
    PointKind kind;
    Marker marker;
    double size;
  };
  for (const Look& look :
       {Look{PointKind::minimum, Marker::diamond, 1.8}, Look{PointKind::maximum, Marker::ring, 1.9},
        Look{PointKind::saddle, Marker::cross, 1.6}, Look{PointKind::degenerate, Marker::dot, 1.2}}) {
    PointLayer marks{.marker = look.marker, .size = look.size, .label = std::string(point_kind_word(look.kind))};
    for (const StationaryPoint& each : found.points) {
      if (each.curvature.kind != look.kind) continue;
      const auto [x, y] = place(each);
      marks.x.push_back(x);
      marks.y.push_back(y);
    }
    if (marks.marker == Marker::cross) marks.color = "#ffffff";
    if (!marks.x.empty()) panel.layers.emplace_back(std::move(marks));
  }
}

Panel contour_panel(const Problem& problem, const StationaryPoints& found) {
  const Box box = problem.region();
  Panel panel = panel_over(problem, box);
  panel.width = 1.25;
  panel.layers.emplace_back(landscape_field(problem, box));
  std::vector<Vector> points;
  for (const StationaryPoint& each : found.points) points.push_back(each.point);
  add_constraints(panel, problem, Vector::Zero(2), 0, 1, box, points);
  add_kinds(panel, found, [](const StationaryPoint& each) { return std::pair{each.point[0], each.point[1]}; });
  return panel;
}

Panel value_panel(const Problem& problem, const StationaryPoints& found) {
  constexpr Index resolution = 1000;
  const Box box = problem.region();
  LineLayer curve{.color = std::string(series_colors[0]), .width = 2};
  for (Index k = 0; k <= resolution; ++k) {
    const double x = box.lower[0] + box.width()[0] * static_cast<double>(k) / resolution;
    const double value = problem.value({x});
    curve.x.push_back(x);
    curve.y.push_back(std::isfinite(value) ? value : not_known);
  }
  Panel panel;
  panel.x = {.label = axis_name(problem.variables()[0]), .range = std::array{box.lower[0], box.upper[0]}};
  panel.y.label = "value";
  panel.layers.emplace_back(std::move(curve));
  add_kinds(panel, found, [](const StationaryPoint& each) { return std::pair{each.point[0], each.value}; });
  return panel;
}

/// The curve of an equality as it is walked: places on it, and how far they are along it.
struct Walk {
  LineLayer line{.color = std::string(series_colors[0]), .width = 2};
  std::vector<Vector> places;
  std::vector<double> lengths;

  Walk(const Problem& problem, const Box& box) {
    constexpr Index resolution = 300;
    const Vector x = Vector::LinSpaced(resolution, box.lower[0], box.upper[0]),
                 y = Vector::LinSpaced(resolution, box.lower[1], box.upper[1]);
    Matrix values(resolution, resolution);
    for (Index i = 0; i < resolution; ++i)
      for (Index j = 0; j < resolution; ++j) values(i, j) = problem.constraint_values({x[j], y[i]})[0];
    double length = 0;
    for (const Curve& curve : level_curves(x, y, values, problem.constraints().front().lower)) {
      for (std::size_t k = 0; k < curve.x.size(); ++k) {
        const Vector place{{curve.x[k], curve.y[k]}};
        if (k > 0) length += (place - places.back()).norm();
        places.push_back(place);
        lengths.push_back(length);
        line.x.push_back(length);
        line.y.push_back(problem.value(place));
      }
      line.x.push_back(not_known); // the next curve begins where this one has ended
      line.y.push_back(not_known);
    }
  }
  [[nodiscard]] double length_at(const Vector& point) const {
    std::size_t nearest = 0;
    for (std::size_t k = 1; k < places.size(); ++k)
      if ((places[k] - point).norm() < (places[nearest] - point).norm()) nearest = k;
    return lengths[nearest];
  }
};

Panel walk_panel(const Problem& problem, const StationaryPoints& found) {
  Walk walk(problem, problem.region());
  Panel panel;
  panel.title = fmt::format("{} along {}", problem.objectives().front().name, problem.constraints().front().name);
  panel.x.label = "length walked on the curve";
  if (walk.places.empty()) return panel;
  panel.x.range = std::array{0.0, walk.lengths.back()};
  panel.layers.emplace_back(walk.line);
  add_kinds(panel, found, [&](const StationaryPoint& each) {
    return std::pair{walk.length_at(each.point), each.value};
  });
  for (Layer& layer : panel.layers) { // white is for the ground of contours
    if (auto* marks = std::get_if<PointLayer>(&layer)) marks->color = std::string(path_color);
  }
  return panel;
}

} // namespace

Figure stationary_figure(const Problem& problem, const StationaryPoints& found) {
  if (problem.dimension() > 2)
    throw ProblemError(fmt::format("stationary points are drawn for one or two variables, and {} has {}",
                                   problem.name(), problem.dimension()));
  Figure figure;
  figure.title = problem.title().empty() ? problem.name() : fmt::format("{}: {}", problem.name(), problem.title());
  figure.caption = fmt::format("{} of {}: {}", counted(static_cast<long long>(found.points.size()), "stationary point"),
                               problem.name(), found.how);
  if (problem.dimension() == 1) {
    figure.panels.push_back(value_panel(problem, found));
    return figure;
  }
  figure.panels.push_back(contour_panel(problem, found));
  if (problem.constraints().size() == 1) figure.panels.push_back(walk_panel(problem, found));
  return figure;
}

} // namespace tanzen
