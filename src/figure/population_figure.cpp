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

Panel snapshot_panel(const Problem& problem, const PopulationSnapshot& snapshot, const FieldLayer& field,
                     const Box& box) {
  Panel panel = landscape_panel(problem, box, field);
  panel.title = fmt::format("iteration {}: {}", snapshot.iteration, counted(snapshot.points.cols(), "member"));
  PointLayer ground{.marker = Marker::dot, .color = "#ffffff", .size = 1.15},
      members{.marker = Marker::dot, .size = 0.75};
  Index best = 0, outside = 0;
  for (Index k = 0; k < snapshot.points.cols(); ++k) {
    const double better = problem.sign() * (snapshot.values[k] - snapshot.values[best]);
    if (better < 0 || std::isnan(snapshot.values[best])) best = k;
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
  if (snapshots.empty())
    throw InputError(fmt::format("{} has no population at these iterations; it did {}", outcome.method,
                                 counted(outcome.iterations, "iteration")));
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

} // namespace tanzen
