#include "front_layers.hpp"

#include "tanzen/numeric/constants.hpp"
#include "tanzen/statistics/fronts.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

std::string objective_label(const Objective& objective) {
  return fmt::format("{} ({})", objective.name, objective.sense == Sense::minimize ? "minimize" : "maximize");
}

std::vector<double> row_of(const Matrix& points, Index row) {
  const Vector values = points.row(row);
  return {values.begin(), values.end()};
}

/// A line over the objectives for each point.
LineLayer lines_over_objectives(const Matrix& points, const ObjectiveBox& box) {
  LineLayer lines;
  for (Index k = 0; k < points.cols(); ++k) {
    for (Index row = 0; row < points.rows(); ++row) {
      lines.x.push_back(static_cast<double>(row + 1));
      lines.y.push_back(box.part(row, points(row, k)));
    }
    lines.x.push_back(not_known);
    lines.y.push_back(not_known);
  }
  return lines;
}

} // namespace

Panel objective_panel(const std::vector<Objective>& objectives) {
  Panel panel;
  if (objectives.size() <= 3) {
    panel.x.label = objective_label(objectives[0]);
    panel.y.label = objective_label(objectives[1]);
    if (objectives.size() == 3) panel.z.label = objective_label(objectives[2]);
    return panel;
  }
  panel.y.label = "from the least to the largest that is shown";
  for (const Objective& each : objectives) panel.x.names.push_back(each.name);
  panel.x.whole_numbers = true;
  panel.x.range = std::array{1.0, static_cast<double>(objectives.size())};
  panel.y.range = std::array{0.0, 1.0};
  return panel;
}

void ObjectiveBox::hold(const Matrix& points) {
  if (points.cols() == 0) return;
  const Vector least = points.rowwise().minCoeff(), most = points.rowwise().maxCoeff();
  lower = lower.size() == 0 ? least : Vector(lower.cwiseMin(least));
  upper = upper.size() == 0 ? most : Vector(upper.cwiseMax(most));
}

double ObjectiveBox::part(Index objective, double value) const {
  const double width = upper[objective] - lower[objective];
  return width > 0 ? (value - lower[objective]) / width : 0.5;
}

void add_front_points(Panel& panel, const Matrix& points, const ObjectiveBox& box, PointLayer style) {
  if (points.cols() == 0) return;
  if (points.rows() > 3) {
    constexpr Index most = 40;
    LineLayer lines = lines_over_objectives(points(Eigen::all, spread_points(points, most)), box);
    lines.color = style.color;
    lines.label = style.label;
    lines.series = style.series;
    lines.width = 0.9 * style.size;
    panel.layers.emplace_back(std::move(lines));
    return;
  }
  style.x = row_of(points, 0);
  style.y = row_of(points, 1);
  if (points.rows() == 3) style.z = row_of(points, 2);
  panel.layers.emplace_back(std::move(style));
}

void add_true_front(Panel& panel, const Matrix& points, const ObjectiveBox& box) {
  constexpr std::string_view color = "#b9b0a4";
  if (points.rows() > 3) return; // its lines would be everywhere
  if (points.rows() == 3) {
    add_front_points(panel, points, box,
                     {.marker = Marker::dot, .color = std::string(color), .size = 0.5, .label = "true front"});
    return;
  }
  // Where two points are far apart, for so many, the front has a gap; single points are seen by their marks.
  const Vector width = box.upper - box.lower;
  const double gap = std::max(0.05, 4.0 / static_cast<double>(points.cols()));
  LineLayer line{.color = std::string(color), .width = 3.5, .label = "true front"};
  for (Index k = 0; k < points.cols(); ++k) {
    if (k > 0 && (points.col(k) - points.col(k - 1)).cwiseQuotient(width).norm() > gap) {
      line.x.push_back(not_known);
      line.y.push_back(not_known);
    }
    line.x.push_back(points(0, k));
    line.y.push_back(points(1, k));
  }
  const bool is_dotted = points.cols() < 50;
  if (is_dotted)
    add_front_points(panel, points, box,
                     {.marker = Marker::dot, .color = std::string(color), .size = 1.3, .label = "true front"});
  else
    panel.layers.emplace_back(std::move(line));
}

Matrix true_front_points(const KnownFront& front, const std::vector<Objective>& objectives, Index count) {
  Matrix points = front.points(count);
  for (Index k = 0; k < points.rows(); ++k) points.row(k) *= sign_of(objectives[static_cast<std::size_t>(k)].sense);
  return points;
}

} // namespace tanzen
