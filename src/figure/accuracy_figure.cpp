#include "tanzen/statistics/summaries.hpp"

#include "comparison_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::size_t most_runs = 400;

/// A box about `x` from quartile to quartile, its median, and the values beside each other as points: all, or of very
/// many some, evenly by rank, the least and the largest among them.
void add_box(Panel& panel, double x, const std::vector<double>& gaps, const MethodStyle& style,
             const std::string& method) {
  constexpr double half = 0.28, spread = 0.2;
  const double lower = quantile(gaps, 0.25), middle = median(gaps), upper = quantile(gaps, 0.75);
  panel.layers.emplace_back(BandLayer{.x = {x - half, x + half},
                                      .lower = {lower, lower},
                                      .upper = {upper, upper},
                                      .color = style.color,
                                      .series = method});
  panel.layers.emplace_back(
      LineLayer{.x = {x - half, x + half}, .y = {middle, middle}, .color = style.color, .width = 3, .series = method});
  PointLayer points{.color = style.color, .size = 0.55, .series = method};
  std::vector<double> sorted = gaps;
  std::ranges::sort(sorted);
  const std::size_t stride = (sorted.size() + most_runs - 1) / most_runs;
  for (std::size_t k = 0; k < gaps.size(); ++k) {
    if (stride > 1 && k % stride != 0 && k + 1 != gaps.size()) continue;
    // The golden ratio spreads the points evenly, however many there are.
    const double place = std::fmod(0.618034 * static_cast<double>(k), 1.0) - 0.5;
    points.x.push_back(x + 2 * spread * place);
    points.y.push_back(stride > 1 ? sorted[k] : gaps[k]);
  }
  panel.layers.emplace_back(std::move(points));
}

Panel box_panel(const Results& results, std::size_t p) {
  Panel panel{.title = results.problems()[p].label};
  const std::size_t methods = results.methods().size();
  const double floor = least_gap(results.problems()[p]);
  double least = std::numeric_limits<double>::infinity(), most = 0;
  std::vector<std::vector<double>> all;
  for (std::size_t m = 0; m < methods; ++m) {
    auto& gaps = all.emplace_back();
    for (const ResultsRun* run : results.runs(p, m)) gaps.push_back(std::max(run->gap, floor));
    for (const double gap : gaps) {
      least = std::min(least, gap);
      if (std::isfinite(gap)) most = std::max(most, gap);
    }
  }
  for (std::size_t m = 0; m < methods; ++m) {
    for (double& gap : all[m]) gap = std::min(gap, 3 * most); // runs without a value stand above the others
    add_box(panel, static_cast<double>(m + 1), all[m], method_style(m), results.methods()[m]);
  }
  panel.x = {.label = "", .range = std::array{0.4, static_cast<double>(methods) + 0.6}, .names = results.methods()};
  panel.y = {.label = "gap", .logarithmic = true, .range = std::array{0.4 * least, 4 * most}};
  add_gap_floor(panel, floor, 0.4, static_cast<double>(methods) + 0.6);
  return panel;
}

} // namespace

Figure accuracy_figure(const Results& results, const ProblemGroup& group) {
  const bool are_all = static_cast<std::size_t>(results.repeats()) <= most_runs;
  Figure figure = comparison_figure(
      fmt::format("Final gaps: boxes from quartile to quartile, and {}", are_all ? "all runs" : "runs evenly by rank"),
      results, group);
  for (const std::size_t p : comparable_problems(results, group, most_comparison_panels))
    figure.panels.push_back(box_panel(results, p));
  arrange(figure);
  return figure;
}

} // namespace tanzen
