#include "tanzen/figure/front_figure.hpp"

#include "tanzen/base/text.hpp"

#include <cassert>
#include <fmt/format.h>

namespace tanzen {
namespace {

std::string objective_label(const Objective& objective) {
  return fmt::format("{} ({})", objective.name, objective.sense == Sense::minimize ? "minimize" : "maximize");
}

std::vector<double> values_of(const Outcome& outcome, std::size_t objective) {
  std::vector<double> values;
  for (const FrontPoint& each : outcome.front) values.push_back(each.objectives[static_cast<Index>(objective)]);
  return values;
}

} // namespace

Figure front_figure(const Outcome& outcome) {
  assert(outcome.objectives.size() > 1);
  Figure figure;
  figure.title = fmt::format("{}, {}: the front", outcome.problem, outcome.method_label);
  figure.caption =
      fmt::format("{} of {}, seed {}: {}", counted(static_cast<long long>(outcome.front.size()), "nondominated point"),
                  counted(outcome.counts[Spent::evaluations], "evaluation"), outcome.seed, outcome.message);
  Panel panel;
  panel.x.label = objective_label(outcome.objectives[0]);
  panel.y.label = objective_label(outcome.objectives[1]);
  PointLayer points{
      .x = values_of(outcome, 0), .y = values_of(outcome, 1), .color = std::string(series_colors[0]), .size = 0.7};
  if (outcome.objectives.size() > 2) {
    panel.z.label = objective_label(outcome.objectives[2]);
    points.z = values_of(outcome, 2);
  }
  for (const FrontPoint& each : outcome.front) points.pointer.push_back(point_text(each.point, 4));
  panel.layers.emplace_back(std::move(points));
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
