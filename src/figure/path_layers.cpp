#include "path_layers.hpp"

#include "tanzen/base/text.hpp"

#include "constraint_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {

std::vector<double> coordinate(const Trace& trace, Index k) {
  std::vector<double> values;
  for (std::size_t row = 0; row < trace.rows(); ++row) values.push_back(trace.point(row)[k]);
  return values;
}

namespace {

/// Rows to mark: the first, and each that lies far enough from the last one marked, so that thousands of small steps
/// do not become a blot.
std::vector<std::size_t> rows_to_mark(const std::vector<double>& x, const std::vector<double>& y, double width,
                                      double height) {
  constexpr double apart = 0.012;
  constexpr std::size_t most = 400;
  std::vector<std::size_t> marked{0};
  for (std::size_t row = 1; row < x.size() && marked.size() < most; ++row) {
    const bool is_far = std::hypot((x[row] - x[marked.back()]) / width, (y[row] - y[marked.back()]) / height) > apart;
    if (is_far && std::isfinite(x[row]) && std::isfinite(y[row])) marked.push_back(row);
  }
  return marked;
}

} // namespace

Panel panel_over(const Problem& problem, const Box& box) {
  Panel panel;
  panel.x = {.label = axis_name(problem.variables()[0]), .range = std::array{box.lower[0], box.upper[0]}};
  panel.y = {.label = axis_name(problem.variables()[1]), .range = std::array{box.lower[1], box.upper[1]}};
  return panel;
}

Panel landscape_panel(const Problem& problem, const Box& box, FieldLayer field) {
  Panel panel = panel_over(problem, box);
  panel.layers.emplace_back(std::move(field));
  add_constraints(panel, problem, Vector::Zero(2), 0, 1, box);
  add_known_minima(panel, problem, box);
  return panel;
}

namespace {

/// What a pointer is told at a row.
std::string row_text(const Trace& trace, std::size_t row) {
  std::string text = fmt::format("iteration {:.0f}: value {}", trace.at(row, Trace::iteration),
                                 short_number(trace.at(row, Trace::value), 8));
  if (trace.has_points()) text += fmt::format(" at {}", point_text(Vector(trace.point(row)), 5, 4));
  return text;
}

/// The rows of a path that some layer shows, with their spans in the frames: in each those before the rows shown.
template <class LayerType>
void take_rows(LayerType& layer, const std::vector<std::size_t>& rows, const std::vector<double>& x,
               const std::vector<double>& y, const Trace& trace, const std::vector<std::size_t>& shown) {
  for (const std::size_t row : rows) {
    layer.x.push_back(x[row]);
    layer.y.push_back(y[row]);
    layer.pointer.push_back(row_text(trace, row));
  }
  for (const std::size_t end : shown) {
    const auto after = std::ranges::lower_bound(rows, end);
    layer.shown.push_back({0, static_cast<std::size_t>(after - rows.begin())});
  }
}

/// For each frame the last row that it shows, of as many as there are places.
std::vector<std::size_t> last_rows(const std::vector<std::size_t>& shown, std::size_t places) {
  std::vector<std::size_t> rows;
  for (const std::size_t end : shown) rows.push_back(std::min(end, places) - 1);
  return rows;
}

/// A mark at a row a frame.
PointLayer going_along(const std::vector<std::size_t>& rows, const std::vector<double>& x, const std::vector<double>& y,
                       const Trace& trace, PointLayer style) {
  take_rows(style, rows, x, y, trace, {});
  for (std::size_t k = 0; k < rows.size() && rows.size() > 1; ++k) style.shown.push_back({k, k + 1});
  return style;
}

} // namespace

void add_path(Panel& panel, const std::vector<double>& x, const std::vector<double>& y, const Box& box,
              const Trace& trace, const Film& film, const PathStyle& style) {
  const Vector size = box.width();
  const double width = size[0], height = size.size() > 1 ? size[1] : 1;
  const std::vector<std::size_t> shown = film.moves() ? film.rows_shown(trace) : std::vector<std::size_t>{};
  const std::vector<std::size_t> ends = shown.empty() ? std::vector{x.size() - 1} : last_rows(shown, x.size());
  if (style.connected) {
    LineLayer line{.color = style.color, .width = style.width, .cased = true, .series = style.series};
    take_rows(line, seen_places(x, y, width, height, ends), x, y, trace, shown);
    panel.layers.emplace_back(std::move(line));
  }
  if (style.dotted) {
    std::vector<std::size_t> marked = rows_to_mark(x, y, width, height);
    marked.erase(marked.begin()); // the ring stands there
    PointLayer dots{.marker = Marker::dot, .color = style.color, .size = 0.6, .series = style.series};
    take_rows(dots, marked, x, y, trace, shown);
    panel.layers.emplace_back(std::move(dots));
  }
  PointLayer start{
      .marker = Marker::ring, .color = style.color, .size = style.mark_size, .label = "start", .series = style.series};
  take_rows(start, {0}, x, y, trace, {});
  panel.layers.emplace_back(std::move(start));
  panel.layers.emplace_back(going_along(ends, x, y, trace,
                                        {.marker = Marker::diamond,
                                         .color = style.color,
                                         .size = style.mark_size,
                                         .label = "end",
                                         .series = style.series}));
}

void add_moving_mark(Panel& panel, const std::vector<double>& x, const std::vector<double>& y, const Trace& trace,
                     const Film& film, const std::string& color, const std::string& series) {
  if (!film.moves()) return;
  panel.layers.emplace_back(going_along(last_rows(film.rows_shown(trace), x.size()), x, y, trace,
                                        {.marker = Marker::dot, .color = color, .size = 1.3, .series = series}));
}

void add_known_minima(Panel& panel, const Problem& problem, const Box& box) {
  PointLayer crosses{.marker = Marker::cross,
                     .color = "#ffffff",
                     .size = 1.4,
                     .label = problem.sense() == Sense::minimize ? "known minimum" : "known maximum"};
  for (const KnownMinimum& minimum : problem.known_minima()) {
    if (!box.contains(minimum.point)) continue;
    crosses.x.push_back(minimum.point[0]);
    crosses.y.push_back(minimum.point[1]);
  }
  if (!crosses.x.empty()) panel.layers.emplace_back(std::move(crosses));
}

void clear_labels(Panel& panel) {
  for (Layer& layer : panel.layers) {
    if (auto* points = std::get_if<PointLayer>(&layer)) points->label.clear();
  }
}

std::string axis_name(const Variable& variable) {
  return variable.unit.empty() ? variable.name : fmt::format("{} ({})", variable.name, variable.unit);
}

Axis iteration_axis(const std::vector<double>& iterations) {
  return {.label = "iteration", .whole_numbers = true, .range = std::array{0.0, std::max(1.0, iterations.back())}};
}

} // namespace tanzen
