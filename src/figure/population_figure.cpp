#include "tanzen/figure/population_figure.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/field.hpp"

#include "path_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

Index best_member(const Problem& problem, const PopulationSnapshot& snapshot) {
  Index best = 0;
  for (Index k = 1; k < snapshot.points.cols(); ++k) {
    const double better = problem.sign() * (snapshot.values[k] - snapshot.values[best]);
    if (better < 0 || std::isnan(snapshot.values[best])) best = k;
  }
  return best;
}

void check_snapshots(const Outcome& outcome, const std::vector<PopulationSnapshot>& snapshots) {
  if (snapshots.empty())
    throw InputError(fmt::format("{} has no population at these iterations; it did {}", outcome.method,
                                 counted(outcome.iterations, "iteration")));
}

/// On each line of a panel over the iterations a mark that goes along with snapshots.
void mark_iterations(Panel& panel, const std::vector<PopulationSnapshot>& snapshots) {
  std::vector<PointLayer> marks;
  for (const Layer& layer : panel.layers) {
    const auto* line = std::get_if<LineLayer>(&layer);
    if (line == nullptr || line->x.empty()) continue;
    PointLayer& mark = marks.emplace_back(PointLayer{.color = line->color, .size = 1.3, .series = line->label});
    for (const PopulationSnapshot& snapshot : snapshots) {
      const auto after = std::ranges::upper_bound(line->x, static_cast<double>(snapshot.iteration));
      const auto row = static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, after - line->x.begin() - 1));
      mark.shown.push_back({mark.x.size(), mark.x.size() + 1});
      mark.x.push_back(line->x[row]);
      mark.y.push_back(line->y[row]);
    }
  }
  for (PointLayer& mark : marks) panel.layers.emplace_back(std::move(mark));
}

Panel snapshot_panel(const Problem& problem, const PopulationSnapshot& snapshot, const FieldLayer& field,
                     const Box& box) {
  Panel panel = landscape_panel(problem, box, field);
  panel.title = fmt::format("iteration {}: {}", snapshot.iteration, counted(snapshot.points.cols(), "member"));
  PointLayer ground{.marker = Marker::dot, .color = "#ffffff", .size = 1.15},
      members{.marker = Marker::dot, .size = 0.75};
  const Index best = best_member(problem, snapshot);
  Index outside = 0;
  for (Index k = 0; k < snapshot.points.cols(); ++k) {
    if (!box.contains(snapshot.points.col(k))) {
      ++outside;
      continue;
    }
    members.x.push_back(snapshot.points(0, k));
    members.y.push_back(snapshot.points(1, k));
  }
  ground.x = members.x;
  ground.y = members.y;
  if (outside > 0) panel.title += fmt::format(", {} outside", outside);
  if (!members.x.empty()) panel.layers.emplace_back(std::move(ground));
  if (!members.x.empty()) panel.layers.emplace_back(std::move(members));
  panel.layers.emplace_back(PointLayer{.x = {snapshot.points(0, best)},
                                       .y = {snapshot.points(1, best)},
                                       .marker = Marker::diamond,
                                       .color = std::string(series_colors[1]),
                                       .size = 1.6});
  clear_labels(panel); // small panels have no room for a key
  return panel;
}

/// What a method tells of its population's width and its steps, over the iterations.
Panel width_panel(const Trace& trace) {
  Panel panel;
  panel.title = "how wide the population is, how long its steps are";
  panel.key_inside = false;
  std::vector<double> all;
  std::size_t series = 0;
  for (const char* name : {"diversity", "sigma", "deviation", "speed", "step"}) {
    if (!trace.has_column(name)) continue;
    std::vector<double> values = trace.column(name);
    std::ranges::replace_if(
        values, [](double value) { return !(value > 0); }, std::numeric_limits<double>::quiet_NaN());
    all.insert(all.end(), values.begin(), values.end());
    panel.layers.emplace_back(LineLayer{.x = trace.column("iteration"),
                                        .y = std::move(values),
                                        .color = std::string(series_colors[series % series_colors.size()]),
                                        .dash = static_cast<int>(series) + 1,
                                        .label = name});
    ++series;
  }
  panel.x = iteration_axis(trace.column("iteration"));
  std::erase_if(all, [](double value) { return std::isnan(value); });
  panel.y.logarithmic = wants_logarithm(all);
  return panel;
}

} // namespace

std::vector<PopulationSnapshot> spread_snapshots(const std::vector<PopulationSnapshot>& snapshots, std::size_t count) {
  if (snapshots.size() <= count) return snapshots;
  std::vector<PopulationSnapshot> chosen;
  const double longest = std::log(static_cast<double>(snapshots.size()));
  std::size_t last = snapshots.size();
  for (std::size_t k = 0; k < count; ++k) {
    const double part = static_cast<double>(k) / static_cast<double>(count - 1);
    auto place = static_cast<std::size_t>(std::lround(std::exp(part * longest))) - 1;
    if (last < snapshots.size()) place = std::max(place, last + 1); // the first ones lie close together
    place = std::min(place, snapshots.size() - count + k);
    chosen.push_back(snapshots[place]);
    last = place;
  }
  return chosen;
}

void check_population_figure(const Problem& problem) {
  if (problem.dimension() == 2) return;
  throw InputError(
      fmt::format("a population is drawn over two variables; {} has {}", problem.name(), problem.dimension()));
}

Figure population_figure(const Problem& problem, const Outcome& outcome,
                         const std::vector<PopulationSnapshot>& snapshots) {
  constexpr std::size_t most_panels = 12;
  constexpr Index resolution = 200;
  check_population_figure(problem);
  check_snapshots(outcome, snapshots);
  const Box box = problem.region();
  FieldLayer field = landscape_field(problem, box, resolution);
  field.scale = field.lines = false;
  Figure figure;
  figure.title = fmt::format("{}, {}", outcome.problem, outcome.method_label);
  figure.caption = fmt::format("from {}, seed {}: {}; orange is the best member", point_text(outcome.start, 4, 4),
                               outcome.seed, outcome.message);
  for (std::size_t k = 0; k < std::min(most_panels, snapshots.size()); ++k)
    figure.panels.push_back(snapshot_panel(problem, snapshots[k], field, box));
  const std::size_t count = figure.panels.size();
  figure.columns = count <= 4 ? count : (count + 1) / 2;
  if (count > 4) figure.height = 960;
  figure.panels.push_back(width_panel(outcome.trace));
  figure.last_panel_below = true;
  return figure;
}

Figure population_film(const Problem& problem, const Outcome& outcome,
                       const std::vector<PopulationSnapshot>& snapshots) {
  check_population_figure(problem);
  check_snapshots(outcome, snapshots);
  const Box box = problem.region();
  FieldLayer field = landscape_field(problem, box);
  field.scale = field.lines = false;
  Panel panel = landscape_panel(problem, box, std::move(field));
  panel.width = 1.3;
  PointLayer members{.color = std::string(path_color), .size = 0.75},
      best{.marker = Marker::diamond, .color = std::string(series_colors[1]), .size = 1.6, .label = "best member"};
  Figure figure;
  for (const PopulationSnapshot& snapshot : snapshots) {
    const std::size_t first = members.x.size();
    for (Index k = 0; k < snapshot.points.cols(); ++k) {
      if (!box.contains(snapshot.points.col(k))) continue;
      members.x.push_back(snapshot.points(0, k));
      members.y.push_back(snapshot.points(1, k));
    }
    members.shown.push_back({first, members.x.size()});
    const Index leader = best_member(problem, snapshot);
    best.shown.push_back({best.x.size(), best.x.size() + 1});
    best.x.push_back(snapshot.points(0, leader));
    best.y.push_back(snapshot.points(1, leader));
    best.pointer.push_back(fmt::format("iteration {}: value {} at {}", snapshot.iteration,
                                       short_number(snapshot.values[leader], 8),
                                       point_text(Vector(snapshot.points.col(leader)), 5, 4)));
    figure.frames.push_back(fmt::format("iteration {}", snapshot.iteration));
  }
  PointLayer ground = members;
  ground.color = "#ffffff";
  ground.size = 1.15;
  members.label = "member";
  ground.series = members.series = "member";
  panel.layers.emplace_back(std::move(ground));
  panel.layers.emplace_back(std::move(members));
  panel.layers.emplace_back(std::move(best));
  figure.title = fmt::format("{}, {}", outcome.problem, outcome.method_label);
  figure.caption = fmt::format("from {}, seed {}: {}", point_text(outcome.start, 4, 4), outcome.seed, outcome.message);
  figure.seconds = std::min(10.0, 0.25 * static_cast<double>(figure.frames.size()));
  figure.panels.push_back(std::move(panel));
  figure.panels.push_back(width_panel(outcome.trace));
  mark_iterations(figure.panels.back(), snapshots);
  return figure;
}

} // namespace tanzen
