#include "path_layers.hpp"

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

void add_path(Panel& panel, const std::vector<double>& x, const std::vector<double>& y, const Box& box,
              bool connected) {
  const Vector size = box.width();
  if (connected) panel.layers.emplace_back(LineLayer{.x = x, .y = y, .width = 1.6, .cased = true});
  PointLayer dots{.marker = Marker::dot, .size = 0.6};
  for (const std::size_t row : rows_to_mark(x, y, size[0], size.size() > 1 ? size[1] : 1)) {
    if (row == 0) continue; // the ring stands there
    dots.x.push_back(x[row]);
    dots.y.push_back(y[row]);
  }
  panel.layers.emplace_back(std::move(dots));
  panel.layers.emplace_back(
      PointLayer{.x = {x.front()}, .y = {y.front()}, .marker = Marker::ring, .size = 1.7, .label = "start"});
  panel.layers.emplace_back(
      PointLayer{.x = {x.back()}, .y = {y.back()}, .marker = Marker::diamond, .size = 1.7, .label = "end"});
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

std::string axis_name(const Variable& variable) {
  return variable.unit.empty() ? variable.name : fmt::format("{} ({})", variable.name, variable.unit);
}

Axis iteration_axis(const std::vector<double>& iterations) {
  return {.label = "iteration", .whole_numbers = true, .range = std::array{0.0, std::max(1.0, iterations.back())}};
}

} // namespace tanzen
