#include "tanzen/base/errors.hpp"
#include "tanzen/statistics/profiles.hpp"

#include "comparison_layers.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen {
namespace {

constexpr std::size_t grid_points = 160;

/// A run's gaps against its cost, from its trace.
ProgressCurve curve_of(const ResultsRun& run, const ResultsProblem& problem) {
  const TraceProgress& progress = run.progress;
  const double sign = problem.sense == Sense::minimize ? 1 : -1;
  ProgressCurve curve;
  for (std::size_t k = 0; k < progress.cost.size(); ++k) {
    if (std::isnan(progress.best[k])) continue;
    curve.cost.push_back(progress.cost[k]);
    curve.value.push_back(std::max(sign * (progress.best[k] - problem.reference), least_gap(problem)));
  }
  return curve;
}

std::vector<double> geometric_grid(double to) {
  std::vector<double> grid;
  for (std::size_t k = 0; k < grid_points; ++k)
    grid.push_back(std::pow(to, static_cast<double>(k) / static_cast<double>(grid_points - 1)));
  return grid;
}

Panel band_panel(const Results& results, std::size_t p) {
  const ResultsProblem& problem = results.problems()[p];
  Panel panel{.title = problem.label};
  const double most = std::max(2.0, cost_range(results, p).most);
  const std::vector<double> grid = geometric_grid(most);
  double least = 1, highest = problem.gaps.front();
  for (std::size_t m = 0; m < results.methods().size(); ++m) {
    std::vector<ProgressCurve> curves;
    for (const ResultsRun* run : results.runs(p, m)) curves.push_back(curve_of(*run, problem));
    QuartileCurves quartiles = quartile_curves(curves, grid);
    const MethodStyle style = method_style(m);
    for (const double value : quartiles.lower) least = std::min(least, value);
    for (const double value : quartiles.upper) {
      if (std::isfinite(value)) highest = std::max(highest, value);
    }
    panel.end_labels.push_back({quartiles.median.back(), results.methods()[m], style.color, {}});
    panel.layers.emplace_back(BandLayer{.x = grid,
                                        .lower = std::move(quartiles.lower),
                                        .upper = std::move(quartiles.upper),
                                        .color = style.color,
                                        .series = results.methods()[m]});
    panel.layers.emplace_back(LineLayer{.x = grid,
                                        .y = std::move(quartiles.median),
                                        .color = style.color,
                                        .dash = style.dash,
                                        .series = results.methods()[m]});
  }
  // Bands lie under all lines.
  std::ranges::stable_partition(panel.layers,
                                [](const Layer& layer) { return std::holds_alternative<BandLayer>(layer); });
  panel.x = {.label = "cost", .logarithmic = true, .range = std::array{1.0, most}};
  panel.y = {.label = "gap", .logarithmic = true, .range = std::array{0.5 * least, 2 * highest}};
  add_gap_floor(panel, least_gap(problem), 1, most);
  for (EndLabel& label : panel.end_labels) label.y = std::clamp(label.y, least, highest);
  return panel;
}

} // namespace

Figure bands_figure(const Results& results, const ProblemGroup& group) {
  Figure figure = comparison_figure("Gap against cost: medians, and bands from quartile to quartile", results, group);
  for (const std::size_t p : comparable_problems(results, group, most_comparison_panels)) {
    if (results.runs(p, 0).front()->progress.cost.empty())
      throw InputError("bands need traces, and this campaign kept none: [trace] rows = 500 in its plan");
    figure.panels.push_back(band_panel(results, p));
  }
  arrange(figure);
  return figure;
}

} // namespace tanzen
