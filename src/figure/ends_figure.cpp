#include "tanzen/figure/ends_figure.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/figure/field.hpp"

#include "path_layers.hpp"
#include "shown_values.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

Panel ends_panel(const Problem& problem, const std::vector<std::vector<Outcome>>& outcomes) {
  const Box box = problem.region();
  FieldLayer field = landscape_field(problem, box);
  field.scale = false;
  Panel panel = landscape_panel(problem, box, std::move(field));
  panel.width = 1.3;
  for (std::size_t m = 0; m < outcomes.size(); ++m) {
    const std::string& name = outcomes[m].front().method_label;
    PointLayer ground{.marker = Marker::diamond, .color = "#ffffff", .size = 2.1, .series = name};
    PointLayer ends{.marker = Marker::diamond, .color = method_style(m).color, .size = 1.5, .series = name};
    for (const Outcome& outcome : outcomes[m]) {
      if (!box.contains(outcome.point)) continue;
      ends.x.push_back(outcome.point[0]);
      ends.y.push_back(outcome.point[1]);
    }
    if (ends.x.empty()) continue;
    ground.x = ends.x;
    ground.y = ends.y;
    panel.layers.emplace_back(std::move(ground));
    panel.layers.emplace_back(std::move(ends));
  }
  clear_labels(panel); // the colours are named beside it
  return panel;
}

/// What the k-th best run of each method reached.
Panel reached_panel(const Problem& problem, const std::vector<std::vector<Outcome>>& outcomes) {
  const bool has_gap = problem.best_value().has_value();
  Panel panel;
  panel.title = has_gap ? "gap reached, best run first" : "value reached, best run first";
  std::vector<double> all;
  std::size_t longest = 1;
  ShownValues shown;
  for (const auto& runs : outcomes) {
    auto& reached = shown.series.emplace_back();
    for (const Outcome& outcome : runs) {
      if (!std::isnan(outcome.value)) reached.push_back(has_gap ? *outcome.gap : outcome.value);
    }
  }
  if (has_gap)
    lay_on_floor(shown, std::numeric_limits<double>::epsilon() * std::max(1.0, std::abs(*problem.best_value())));
  for (std::size_t m = 0; m < outcomes.size(); ++m) {
    std::vector<double> reached = shown.series[m], ranks;
    std::ranges::sort(reached, {},
                      [&](double value) { return has_gap ? value : sign_of(problem.value_sense()) * value; });
    for (std::size_t k = 0; k < reached.size(); ++k) ranks.push_back(static_cast<double>(k + 1));
    longest = std::max(longest, reached.size());
    all.insert(all.end(), reached.begin(), reached.end());
    const MethodStyle style = method_style(m);
    if (!reached.empty())
      panel.end_labels.push_back({reached.back(), outcomes[m].front().method_label, style.color, {}});
    panel.layers.emplace_back(PointLayer{.x = ranks,
                                         .y = reached,
                                         .marker = Marker::dot,
                                         .color = style.color,
                                         .series = outcomes[m].front().method_label});
    panel.layers.emplace_back(LineLayer{.x = std::move(ranks),
                                        .y = std::move(reached),
                                        .color = style.color,
                                        .width = 1.5,
                                        .dash = style.dash,
                                        .series = outcomes[m].front().method_label});
  }
  panel.x = {.label = "run", .whole_numbers = true, .range = std::array{0.5, static_cast<double>(longest) + 0.5}};
  panel.y.logarithmic = wants_logarithm(all);
  if (all.empty()) return panel;
  const auto [least, most] = std::ranges::minmax(all);
  const double room = most > least ? 0.04 * (most - least) : 0.5 * std::max(std::abs(most), 1.0);
  panel.y.range = panel.y.logarithmic ? std::array{0.5 * least, 2 * most} : std::array{least - room, most + room};
  if (panel.y.logarithmic) add_floor(panel, shown, (*panel.x.range)[0], (*panel.x.range)[1]);
  return panel;
}

/// Values of the minima in their order, and the share of searches.
Panel list_panel(const Outcome& outcome) {
  Panel panel;
  panel.title = "share of the local searches that led to each value";
  panel.x.label = "value";
  panel.y.label = "share";
  double searches = 0;
  for (const FoundMinimum& minimum : outcome.minima) searches += static_cast<double>(minimum.times);
  PointLayer dots{.marker = Marker::diamond, .color = std::string(series_colors[1]), .size = 1.4};
  std::vector<double> x, y;
  for (const FoundMinimum& minimum : outcome.minima) {
    const double share = static_cast<double>(minimum.times) / searches;
    dots.x.push_back(minimum.value);
    dots.y.push_back(share);
    for (const double height : {0.0, share, std::numeric_limits<double>::quiet_NaN()}) {
      x.push_back(minimum.value);
      y.push_back(height);
    }
  }
  const auto [least, most] = std::ranges::minmax(dots.x);
  const double margin = most > least ? 0.06 * (most - least) : 0.5 * std::max(std::abs(most), 1.0);
  panel.x.range = std::array{least - margin, most + margin};
  panel.y.range = std::array{0.0, 1.1 * *std::ranges::max_element(dots.y)};
  panel.layers.emplace_back(
      LineLayer{.x = std::move(x), .y = std::move(y), .color = std::string(axis_color), .width = 1.5});
  panel.layers.emplace_back(std::move(dots));
  return panel;
}

Panel minima_panel(const Problem& problem, const Outcome& outcome) {
  const Box box = problem.region();
  FieldLayer field = landscape_field(problem, box);
  field.scale = false;
  Panel panel = landscape_panel(problem, box, std::move(field));
  panel.width = 1.3;
  PointLayer ground{.marker = Marker::diamond, .color = "#ffffff", .size = 2.0};
  PointLayer found{.marker = Marker::diamond, .color = std::string(series_colors[1]), .size = 1.4, .label = "found"};
  for (const FoundMinimum& minimum : outcome.minima) {
    found.x.push_back(minimum.point[0]);
    found.y.push_back(minimum.point[1]);
  }
  ground.x = found.x;
  ground.y = found.y;
  panel.layers.emplace_back(std::move(ground));
  panel.layers.emplace_back(std::move(found));
  return panel;
}

} // namespace

Figure ends_figure(const Problem& problem, const std::vector<std::vector<Outcome>>& outcomes) {
  std::vector<std::string> labels;
  for (const auto& runs : outcomes) labels.push_back(runs.front().method_label);
  Figure figure;
  figure.title = fmt::format("{}: where {} ended", problem.name(), joined(labels, ", "));
  figure.caption =
      fmt::format("{} from {}, seeds {} to {}", counted(static_cast<std::int64_t>(outcomes.front().size()), "run"),
                  outcomes.front().size() == 1 ? "one start" : "random starts", outcomes.front().front().seed,
                  outcomes.front().back().seed);
  if (problem.dimension() == 2) figure.panels.push_back(ends_panel(problem, outcomes));
  figure.panels.push_back(reached_panel(problem, outcomes));
  return figure;
}

Figure minima_figure(const Problem& problem, const Outcome& outcome) {
  if (outcome.minima.empty()) throw InputError(fmt::format("{} found no minimum that it is sure of", outcome.method));
  Figure figure;
  const auto count = static_cast<std::int64_t>(outcome.minima.size());
  const char* extreme = problem.sense() == Sense::minimize ? "minim" : "maxim";
  figure.title = fmt::format("{}: {} local {}{} found by {}", outcome.problem, count, extreme, count == 1 ? "um" : "a",
                             outcome.method_label);
  figure.caption = fmt::format("{}, seed {}: {}", counted(outcome.counts[Spent::evaluations], "evaluation"),
                               outcome.seed, outcome.message);
  if (problem.dimension() == 2) figure.panels.push_back(minima_panel(problem, outcome));
  figure.panels.push_back(list_panel(outcome));
  return figure;
}

} // namespace tanzen
