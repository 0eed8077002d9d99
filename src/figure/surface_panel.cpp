#include "surface_panel.hpp"
#include "tanzen/numeric/constants.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <limits>
#include <numbers>

namespace tanzen {
namespace {

/// How deep below the surface the ground lies, and how far above it a path: parts of the surface's height.
constexpr double ground_depth = 0.25, line_lift = 0.012, mark_lift = 0.035;

const FieldLayer& field_of(const Panel& panel) {
  const auto surface = std::ranges::find_if(
      panel.layers, [](const Layer& layer) { return std::holds_alternative<SurfaceLayer>(layer); });
  assert(surface != panel.layers.end());
  return std::get<SurfaceLayer>(*surface).field;
}

/// Where a number stands on the panel's axis of heights, from 0 on the ground to 1.
double height_part(const Axis& z, double value) {
  const auto [low, high] = *z.range;
  if (!z.logarithmic) return (value - low) / (high - low);
  return std::log(std::max(value, low) / low) / std::log(high / low);
}

double at_part(const Axis& z, double part) {
  const auto [low, high] = *z.range;
  return z.logarithmic ? low * std::pow(high / low, part) : low + part * (high - low);
}

/// The range that the heights take, with the ground below them.
void set_heights(Axis& z, const FieldLayer& field) {
  std::vector<double> values;
  for (const double value : field.values.reshaped()) {
    if (std::isfinite(value)) values.push_back(value);
  }
  z.label = "value";
  if (values.empty()) {
    z.range = std::array{0.0, 1.0};
    return;
  }
  std::ranges::sort(values);
  const auto at = [&](double part) {
    return values[static_cast<std::size_t>(part * static_cast<double>(values.size() - 1))];
  };
  double low = values.front(), high = values.back();
  z.logarithmic = low > 0 && at(0.95) > 1000 * at(0.05);
  if (z.logarithmic) {
    z.range = std::array{low / std::pow(high / low, ground_depth), high};
    return;
  }
  if (!(high > low)) high = low + std::max(1.0, std::abs(low));
  z.range = std::array{low - ground_depth * (high - low), high};
}

/// The field between its grid's points, in proportion; NaN outside.
double field_value(const FieldLayer& field, double x, double y) {
  const Index columns = field.x.size(), rows = field.y.size();
  const double u = (x - field.x[0]) / (field.x[columns - 1] - field.x[0]) * static_cast<double>(columns - 1);
  const double v = (y - field.y[0]) / (field.y[rows - 1] - field.y[0]) * static_cast<double>(rows - 1);
  if (!(u >= 0 && v >= 0 && u <= static_cast<double>(columns - 1) && v <= static_cast<double>(rows - 1)))
    return not_known;
  const Index j = std::min(columns - 2, static_cast<Index>(u)), i = std::min(rows - 2, static_cast<Index>(v));
  const double a = u - static_cast<double>(j), b = v - static_cast<double>(i);
  return (1 - b) * ((1 - a) * field.values(i, j) + a * field.values(i, j + 1)) +
         b * ((1 - a) * field.values(i + 1, j) + a * field.values(i + 1, j + 1));
}

/// A height just above the surface.
double above(const Panel& panel, double x, double y, double lift) {
  return at_part(panel.z, height_part(panel.z, field_value(field_of(panel), x, y)) + lift);
}

/// The places of a line with more between them, a cell of the grid apart, so that it follows the surface.
struct FineLine {
  std::vector<double> x, y;
  std::vector<std::size_t> row; ///< that each place stands at or leads to
};

FineLine refined(const FieldLayer& field, const std::vector<double>& x, const std::vector<double>& y) {
  const double cell_x = field.x[1] - field.x[0], cell_y = field.y[1] - field.y[0];
  FineLine line{{x[0]}, {y[0]}, {0}};
  for (std::size_t k = 1; k < x.size(); ++k) {
    const double cells = std::max(std::abs(x[k] - x[k - 1]) / cell_x, std::abs(y[k] - y[k - 1]) / cell_y);
    const auto pieces = static_cast<int>(std::clamp(std::ceil(cells), 1.0, 400.0));
    for (int piece = 1; piece <= pieces; ++piece) {
      const double part = static_cast<double>(piece) / pieces;
      line.x.push_back(x[k - 1] + part * (x[k] - x[k - 1]));
      line.y.push_back(y[k - 1] + part * (y[k] - y[k - 1]));
      line.row.push_back(k);
    }
  }
  return line;
}

/// Lifts a layer of the plane into space, a little above the surface.
template <class LayerType>
void lift_onto(const Panel& panel, LayerType& layer, double lift) {
  for (std::size_t k = 0; k < layer.x.size(); ++k) layer.z.push_back(above(panel, layer.x[k], layer.y[k], lift));
}

} // namespace

Panel surface_panel(Panel panel, FieldLayer field, std::vector<PointLayer> marks) {
  field.scale = false;
  set_heights(panel.z, field);
  panel.layers = {SurfaceLayer{std::move(field)}};
  for (PointLayer& mark : marks) {
    lift_onto(panel, mark, mark_lift);
    panel.layers.emplace_back(std::move(mark));
  }
  return panel;
}

Panel surface_over(const Problem& problem, const Box& box, FieldLayer field) {
  Panel flat = panel_over(problem, box);
  add_known_minima(flat, problem, box);
  std::vector<PointLayer> marks;
  for (const Layer& layer : flat.layers) marks.push_back(std::get<PointLayer>(layer));
  return surface_panel(std::move(flat), std::move(field), std::move(marks));
}

void add_path_on_surface(Panel& panel, const std::vector<double>& x, const std::vector<double>& y, const Trace& trace,
                         const Film& film, const PathStyle& style) {
  const FineLine fine = refined(field_of(panel), x, y);
  LineLayer line{.x = fine.x, .y = fine.y, .color = style.color, .width = style.width, .cased = true};
  line.series = style.series;
  if (film.moves()) {
    for (const std::size_t end : film.rows_shown(trace)) {
      const auto after = std::ranges::lower_bound(fine.row, end);
      line.shown.push_back({0, static_cast<std::size_t>(after - fine.row.begin())});
    }
  }
  LineLayer shadow = line;
  shadow.cased = false;
  shadow.width = 1;
  shadow.color = std::string(axis_color);
  shadow.z.assign(shadow.x.size(), (*panel.z.range)[0]);
  lift_onto(panel, line, line_lift);
  panel.layers.emplace_back(std::move(line));
  panel.layers.emplace_back(std::move(shadow));
  Panel flat;
  PathStyle marks = style;
  marks.connected = false;
  const Box box{Vector{{(*panel.x.range)[0], (*panel.y.range)[0]}}, Vector{{(*panel.x.range)[1], (*panel.y.range)[1]}}};
  add_path(flat, x, y, box, trace, film, marks);
  for (Layer& layer : flat.layers) {
    lift_onto(panel, std::get<PointLayer>(layer), mark_lift);
    panel.layers.push_back(std::move(layer));
  }
}

double seen_part(const Panel& panel, const View& view) {
  // The surface as it stands in the picture: a square of side 1.25 and 0.85 high.
  constexpr double side = 1.25, tall = 0.85, step = 0.01;
  const FieldLayer& field = field_of(panel);
  const double turn = std::numbers::pi / 180;
  const double dx = std::cos(view.elevation * turn) * std::cos(view.azimuth * turn) / side,
               dy = std::cos(view.elevation * turn) * std::sin(view.azimuth * turn) / side,
               dz = std::sin(view.elevation * turn) / tall;
  const auto [x0, x1] = *panel.x.range;
  const auto [y0, y1] = *panel.y.range;
  std::size_t all = 0, seen = 0;
  for (const Layer& layer : panel.layers) {
    const auto* line = std::get_if<LineLayer>(&layer);
    if (line == nullptr || !line->cased) continue;
    for (std::size_t k = 0; k < line->x.size(); ++k) {
      double u = (line->x[k] - x0) / (x1 - x0), v = (line->y[k] - y0) / (y1 - y0), w = height_part(panel.z, line->z[k]);
      if (!(u >= 0 && u <= 1 && v >= 0 && v <= 1 && std::isfinite(w))) continue;
      ++all;
      bool is_hidden = false;
      while (!is_hidden && u >= 0 && u <= 1 && v >= 0 && v <= 1 && w <= 1) {
        u += step * dx;
        v += step * dy;
        w += step * dz;
        is_hidden = height_part(panel.z, field_value(field, x0 + u * (x1 - x0), y0 + v * (y1 - y0))) > w;
      }
      seen += is_hidden ? 0 : 1;
    }
  }
  return all == 0 ? 1 : static_cast<double>(seen) / static_cast<double>(all);
}

void show_paths(Panel& panel) {
  const View usual;
  View best = usual;
  double least = std::numeric_limits<double>::infinity();
  for (double raised = 0; raised <= 40; raised += 10) {
    for (double turned = -180; turned < 180; turned += 15) {
      const View view{usual.azimuth + turned, usual.elevation + raised};
      const double effort = 0.1 * (std::abs(turned) / 180 + raised / 40);
      const double cost = 10 * (1 - seen_part(panel, view)) + effort;
      if (cost < least) {
        least = cost;
        best = view;
      }
    }
  }
  panel.view = best;
}

} // namespace tanzen
