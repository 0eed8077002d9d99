#include "tanzen/figure/front_figure.hpp"

#include "tanzen/analysis/preference.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/statistics/fronts.hpp"

#include "front_layers.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr Index most_front_points = 500;

Matrix objectives_of(const Outcome& outcome) {
  Matrix points(static_cast<Index>(outcome.objectives.size()), static_cast<Index>(outcome.front.size()));
  for (std::size_t k = 0; k < outcome.front.size(); ++k)
    points.col(static_cast<Index>(k)) = outcome.front[k].objectives;
  return points;
}

/// Those of some places of a front, with what a pointer is told there.
void add_marked(Panel& panel, const Outcome& outcome, const std::vector<std::size_t>& places, const ObjectiveBox& box,
                PointLayer style) {
  Matrix points(static_cast<Index>(outcome.objectives.size()), static_cast<Index>(places.size()));
  for (std::size_t k = 0; k < places.size(); ++k) {
    points.col(static_cast<Index>(k)) = outcome.front[places[k]].objectives;
    style.pointer.push_back(point_text(outcome.front[places[k]].point, 4));
  }
  add_front_points(panel, points, box, std::move(style));
}

/// What was missing of the true front, or what was covered where that is not known, against the evaluations.
Panel covered_panel(const Outcome& outcome) {
  Panel panel;
  std::vector<double> cost = outcome.trace.column("evaluations"), values = outcome.trace.column("best_value");
  const bool is_share = outcome.best_known.has_value();
  for (double& value : values) {
    if (is_share) value = 1 - value;
    if (is_share && !(value > 0)) value = not_known;
  }
  panel.title =
      is_share ? "share of the true front's volume that is not covered" : "volume covered towards the reference";
  panel.x.label = "evaluations";
  // Few numbers, which have room beside each other.
  const double most = cost.empty() ? 1 : cost.back(),
               decade = std::pow(10, std::floor(std::log10(std::max(most, 1.0))));
  const double step = decade * (most < 1.5 * decade ? 0.5 : most < 4 * decade ? 1 : 2);
  panel.x.range = std::array{0.0, most};
  for (double tic = 0; tic <= most; tic += step) panel.x.tics.push_back(tic);
  panel.y.logarithmic = is_share && wants_logarithm(values);
  panel.layers.emplace_back(
      LineLayer{.x = std::move(cost), .y = std::move(values), .color = std::string(series_colors[0])});
  return panel;
}

} // namespace

Figure front_figure(const Problem& problem, const Outcome& outcome) {
  assert(outcome.objectives.size() > 1);
  Figure figure;
  figure.title = fmt::format("{}, {}: the front", outcome.problem, outcome.method_label);
  figure.caption =
      fmt::format("{} of {}, seed {}: {}", counted(static_cast<long long>(outcome.front.size()), "nondominated point"),
                  counted(outcome.counts[Spent::evaluations], "evaluation"), outcome.seed, outcome.message);
  Panel panel = objective_panel(outcome.objectives);
  panel.width = 1.3;
  const Matrix points = objectives_of(outcome);
  ObjectiveBox box;
  box.hold(points);
  if (const auto& known = problem.known_front()) {
    const Matrix of_front = true_front_points(*known, outcome.objectives, true_points);
    box.hold(of_front);
    add_true_front(panel, of_front, box);
  }
  if (points.cols() > 0) {
    std::vector<std::size_t> shown;
    for (const Index k : spread_points(points, most_front_points)) shown.push_back(static_cast<std::size_t>(k));
    add_marked(panel, outcome, shown, box,
               {.marker = Marker::dot, .color = std::string(series_colors[0]), .size = 0.7, .label = "found"});
    add_marked(panel, outcome, front_ends(outcome), box,
               {.marker = Marker::diamond, .color = std::string(series_colors[2]), .size = 1.6, .label = "ends"});
    add_marked(panel, outcome, {choose(outcome, {}).point}, box,
               {.marker = Marker::diamond, .color = std::string(series_colors[1]), .size = 1.8, .label = "knee"});
  }
  figure.panels.push_back(std::move(panel));
  if (std::ranges::any_of(outcome.trace.column("best_value"), [](double value) { return std::isfinite(value); }))
    figure.panels.push_back(covered_panel(outcome));
  return figure;
}

Figure front_growth_figure(const Problem& problem, const Outcome& outcome,
                           const std::vector<PopulationSnapshot>& snapshots) {
  constexpr std::array<std::string_view, 6> ages = {"#d9b48f", "#e08a3c", "#b65a3c", "#8a2f6b", "#46409a", "#16213e"};
  Figure figure;
  figure.title = fmt::format("{}, {}: how its front grew", outcome.problem, outcome.method_label);
  figure.caption = fmt::format("members in objective space; seed {}, {}", outcome.seed, outcome.message);
  Panel panel = objective_panel(problem.objectives());
  std::vector<Matrix> grown;
  ObjectiveBox box;
  for (const PopulationSnapshot& snapshot : snapshots) {
    Matrix parts;
    problem.bundle()->worker()->outputs(snapshot.points, parts);
    grown.emplace_back(parts.topRows(problem.parts().objectives));
    box.hold(grown.back());
  }
  if (const auto& known = problem.known_front()) {
    const Matrix of_front = true_front_points(*known, problem.objectives(), true_points);
    box.hold(of_front);
    add_true_front(panel, of_front, box);
  }
  for (std::size_t k = 0; k < snapshots.size(); ++k) {
    const std::size_t age = snapshots.size() == 1 ? ages.size() - 1 : k * (ages.size() - 1) / (snapshots.size() - 1);
    add_front_points(panel, grown[k], box,
                     {.marker = Marker::dot,
                      .color = std::string(ages[age]),
                      .size = 0.9,
                      .label = fmt::format("iteration {}", snapshots[k].iteration)});
  }
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
