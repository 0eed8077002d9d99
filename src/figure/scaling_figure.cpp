#include "tanzen/comparison/scaling.hpp"

#include "tanzen/base/errors.hpp"

#include "comparison_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

void add_curve(Panel& panel, const ScalingRow& row, std::size_t method) {
  const MethodStyle style = method_style(method);
  LineLayer line{.color = style.color, .dash = style.dash, .series = row.method};
  PointLayer points{.marker = style.marker, .color = style.color, .size = 1.1, .series = row.method};
  for (std::size_t k = 0; k < row.costs.size(); ++k) {
    if (!std::isfinite(row.costs[k])) continue;
    points.x.push_back(row.variables[k]);
    points.y.push_back(row.costs[k]);
  }
  if (points.x.empty()) return;
  line.x = points.x;
  line.y = points.y;
  const std::string exponent = std::isfinite(row.exponent) ? fmt::format("  n^{:.1f}", row.exponent) : "";
  panel.end_labels.push_back({points.y.back(), row.method + exponent, style.color, row.method});
  panel.layers.emplace_back(std::move(line));
  panel.layers.emplace_back(std::move(points));
}

std::array<double, 2> whole_decades(double least, double most) {
  return {std::pow(10.0, std::floor(std::log10(least))), std::pow(10.0, std::ceil(std::log10(most)))};
}

} // namespace

Figure scaling_figure(const Results& results, const ProblemGroup& group, std::optional<double> gap) {
  std::vector<ProblemComparison> comparisons = compare(results, gap);
  std::erase_if(comparisons, [&](const ProblemComparison& each) {
    return std::ranges::none_of(group.problems,
                                [&](std::size_t p) { return results.problems()[p].label == each.problem; });
  });
  const std::vector<ScalingRow> rows = scaling_of(comparisons, results);
  Figure figure = comparison_figure("Expected running time against the number of variables", results, group);
  for (std::size_t begin = 0; begin < rows.size() && figure.panels.size() < most_comparison_panels;
       begin += results.methods().size()) {
    Panel panel{.title = rows[begin].family};
    double least = std::numeric_limits<double>::infinity(), most = 0;
    for (std::size_t m = 0; m < results.methods().size(); ++m) {
      add_curve(panel, rows[begin + m], m);
      for (const double cost : rows[begin + m].costs) {
        least = std::min(least, cost);
        if (std::isfinite(cost)) most = std::max(most, cost);
      }
    }
    const bool has_curve = std::ranges::any_of(panel.layers, [](const Layer& layer) {
      const auto* line = std::get_if<LineLayer>(&layer);
      return line != nullptr && line->x.size() > 1;
    });
    if (!has_curve) continue; // no method solved two of its members
    const auto [fewest, largest] = std::ranges::minmax(rows[begin].variables);
    panel.x = {.label = "number of variables", .logarithmic = true, .range = std::array{0.9 * fewest, 1.1 * largest}};
    for (const double variables : rows[begin].variables) panel.x.tics.push_back(variables);
    panel.y = {.label = "expected running time", .logarithmic = true, .range = whole_decades(least, most)};
    figure.panels.push_back(std::move(panel));
  }
  if (figure.panels.empty())
    throw InputError("scaling needs a family with several numbers of variables, solved: rosenbrock:dim=2,5,10");
  arrange(figure);
  return figure;
}

} // namespace tanzen
