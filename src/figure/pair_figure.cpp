#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include "comparison_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace tanzen {

Figure pair_figure(const Results& results, const ProblemGroup& group, std::pair<std::size_t, std::size_t> methods,
                   std::optional<double> gap) {
  if (methods.first == methods.second) throw InputError("a pair needs two different methods");
  const auto problems = comparable_problems(results, group, group.problems.size());
  const std::string &first = results.methods()[methods.first], &second = results.methods()[methods.second];
  double least = std::numeric_limits<double>::infinity(), most = 1;
  std::vector<std::pair<double, double>> costs;
  for (const std::size_t p : problems) {
    const std::size_t target = results.target_for(p, gap);
    for (const std::int64_t repeat : results.repeats_of(p)) {
      costs.emplace_back(results.run({p, repeat, methods.first}).cost_to(target),
                         results.run({p, repeat, methods.second}).cost_to(target));
      for (const double cost : {costs.back().first, costs.back().second}) {
        if (!std::isfinite(cost)) continue;
        least = std::min(least, cost);
        most = std::max(most, cost);
      }
    }
  }
  if (!std::isfinite(least)) throw InputError(fmt::format("neither {} nor {} solved anything", first, second));
  const double edge = 3 * most; // where failures stand
  Figure figure =
      comparison_figure(fmt::format("Cost of {} against {} in each paired run", second, first), results, group);
  PointLayer below{.color = method_style(methods.second).color, .size = 0.8, .label = second + " cheaper"},
      above{.color = method_style(methods.first).color, .size = 0.8, .label = first + " cheaper"};
  std::int64_t neither = 0, ties = 0, first_cheaper = 0, second_cheaper = 0;
  std::set<std::pair<double, double>> places;
  for (const auto& [x, y] : costs) {
    if (!std::isfinite(x) && !std::isfinite(y)) {
      ++neither;
      continue;
    }
    ties += x == y ? 1 : 0;
    ++(y <= x ? second_cheaper : first_cheaper);
    if (!places.insert({x, y}).second) continue; // another run has its mark there
    PointLayer& side = y <= x ? below : above;
    side.x.push_back(std::min(x, edge));
    side.y.push_back(std::min(y, edge));
  }
  Panel panel;
  panel.title = fmt::format("{} cheaper in {}, {} in {}, neither solved {} of {}", first, first_cheaper, second,
                            second_cheaper - ties, neither, costs.size());
  panel.layers.emplace_back(
      LineLayer{.x = {least, edge}, .y = {least, edge}, .color = std::string(axis_color), .width = 1.2});
  panel.layers.emplace_back(LineLayer{
      .x = {edge, edge, least}, .y = {least, edge, edge}, .color = std::string(axis_color), .width = 1, .dash = 3});
  for (PointLayer* side : {&below, &above}) {
    if (!side->x.empty()) panel.layers.emplace_back(std::move(*side));
  }
  panel.layers.emplace_back(
      TextLayer{.x = {std::sqrt(least * edge)}, .y = {edge * 1.25}, .texts = {second + " missed the gap"}, .size = 10});
  const std::array range{0.7 * least, 1.6 * edge};
  panel.x = {
      .label = fmt::format("cost of {} (at the edge: missed the gap)", first), .logarithmic = true, .range = range};
  panel.y = {.label = fmt::format("cost of {}", second), .logarithmic = true, .range = range};
  panel.key_inside = true;
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
