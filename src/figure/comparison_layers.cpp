#include "comparison_layers.hpp"

#include "shown_values.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {

MethodStyle method_style(std::size_t method) {
  constexpr std::array markers = {Marker::dot, Marker::diamond, Marker::ring, Marker::cross};
  const std::size_t colors = series_colors.size();
  return {std::string(series_colors[method % colors]), static_cast<int>((method + method / colors) % 5) + 1,
          markers[(method + method / colors) % markers.size()]};
}

Figure comparison_figure(const std::string& what, const Results& results, const ProblemGroup& group) {
  Figure figure;
  figure.title = what;
  std::string over = group.name;
  if (group.problems.size() == 1) over = results.problems()[group.problems.front()].label;
  figure.caption = fmt::format("{}{}  |  {}, {}, seed {}", results.title().empty() ? "" : results.title() + "  |  ",
                               over, counted(static_cast<std::int64_t>(results.methods().size()), "method"),
                               counted(results.repeats(), "repeat"), results.seed());
  return figure;
}

std::vector<std::size_t> comparable_problems(const Results& results, const ProblemGroup& group, std::size_t most) {
  std::vector<std::size_t> problems;
  for (const std::size_t p : group.problems) {
    if (!results.repeats_of(p).empty() && problems.size() < most) problems.push_back(p);
  }
  if (problems.empty()) throw InputError("there is no problem with a repeat that all methods have done");
  return problems;
}

void arrange(Figure& figure) {
  const std::size_t count = figure.panels.size();
  figure.columns = count <= 3 ? count : count == 4 ? 2 : 3;
}

void add_steps(Panel& panel, std::size_t method, const std::string& name, const std::vector<double>& cost,
               const std::vector<double>& share, double from, double to) {
  const MethodStyle style = method_style(method);
  LineLayer line{.x = {from}, .y = {0}, .color = style.color, .dash = style.dash, .series = name};
  double height = 0;
  for (std::size_t k = 0; k < cost.size() && cost[k] <= to; ++k) {
    const double at = std::max(cost[k], from);
    // Steps that are too small to be seen go with the next one.
    const bool is_followed = k + 1 < cost.size() && cost[k + 1] <= to;
    if (is_followed && share[k] - height < 0.002 && cost[k + 1] < at * std::pow(to / from, 0.002)) continue;
    line.x.insert(line.x.end(), {at, at});
    line.y.insert(line.y.end(), {height, share[k]});
    height = share[k];
  }
  line.x.push_back(to);
  line.y.push_back(height);
  panel.layers.emplace_back(std::move(line));
  panel.end_labels.push_back({height, name, style.color, {}});
}

double least_gap(const ResultsProblem& problem) {
  return 0.1 * problem.gaps.back();
}

void add_gap_floor(Panel& panel, double floor, double from, double to) {
  const double most = (*panel.y.range)[1], lower = (*panel.y.range)[0];
  if (lower > floor) return; // none lies there
  add_floor(panel,
            {.title = "",
             .series = {{most}},
             .floor = floor,
             .floor_name = fmt::format("at most {}", short_number(floor, 1))},
            from, to);
  (*panel.y.range)[1] = most;
}

Axis share_axis(const std::string& label) {
  return {.label = label, .range = std::array{0.0, 1.0}};
}

} // namespace tanzen
