#include "tanzen/figure/sample_figure.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/statistics/fronts.hpp"
#include "tanzen/statistics/summaries.hpp"

#include "front_layers.hpp"
#include "path_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::array<std::string_view, 6> value_colors = {"#16213e", "#46285a", "#7a3b52",
                                                          "#b65a3c", "#d29a72", "#e3cfa4"};

/// Members by their ranks, the front last, for it lies on top.
struct RankGroup {
  int least, most;
  const char* label;
  std::string_view color;
};
constexpr std::array<RankGroup, 3> rank_groups = {
    {{4, 1 << 30, "the rest", "#d8d0c4"}, {1, 3, "ranks 2 to 4", "#c8641b"}, {0, 0, "front", "#1d4f91"}}};

std::vector<Index> members_of(const RankGroup& group, const Sample& sample) {
  std::vector<Index> members;
  for (std::size_t k = 0; k < sample.ranks.size(); ++k)
    if (sample.ranks[k] >= group.least && sample.ranks[k] <= group.most) members.push_back(static_cast<Index>(k));
  return members;
}

Panel objective_space(const Problem& problem, const Sample& sample) {
  Panel panel = objective_panel(problem.objectives());
  ObjectiveBox box;
  for (const RankGroup& group : rank_groups) box.hold(sample.objectives(Eigen::all, members_of(group, sample)));
  for (const RankGroup& group : rank_groups)
    add_front_points(panel, sample.objectives(Eigen::all, members_of(group, sample)), box,
                     {.marker = Marker::dot,
                      .color = std::string(group.color),
                      .size = group.least == 0 ? 1.2 : 0.9,
                      .label = group.label});
  return panel;
}

/// What a coordinate is in parts of the region.
double part_of(const Box& box, const Sample& sample, Index i, Index k) {
  return (sample.points(i, k) - box.lower[i]) / (box.upper[i] - box.lower[i]);
}

/// The middle half of all members, variable by variable.
BandLayer middle_half(const Box& box, const Sample& sample) {
  BandLayer band;
  for (Index i = 0; i < sample.points.rows(); ++i) {
    std::vector<double> parts;
    for (Index k = 0; k < sample.points.cols(); ++k) parts.push_back(part_of(box, sample, i, k));
    band.x.push_back(static_cast<double>(i + 1));
    band.lower.push_back(quantile(parts, 0.25));
    band.upper.push_back(quantile(parts, 0.75));
  }
  return band;
}

/// A member is a line over the variables; of many variables only some of the front are lines, for nobody could follow
/// more of them.
Panel decision_space(const Problem& problem, const Box& box, const Sample& sample) {
  constexpr Index most_named = 12, most_followed = 8;
  constexpr std::size_t most_lines = 8;
  const Index n = problem.dimension();
  Panel panel;
  panel.title = "variables, in parts of the region";
  panel.x.range = std::array{1.0, static_cast<double>(std::max<Index>(n, 2))};
  panel.y.range = std::array{0.0, 1.0};
  panel.x.whole_numbers = true;
  if (n <= most_named)
    panel.x.names = problem.variable_names();
  else
    panel.x.label = "variable";
  if (n > most_followed) {
    const auto on_front = static_cast<std::size_t>(std::ranges::count(sample.ranks, 0));
    panel.title = on_front > most_lines
                      ? fmt::format("variables of {} members of the front, and the middle half of all", most_lines)
                      : std::string("variables of the front, and the middle half of all");
    panel.layers.emplace_back(middle_half(box, sample));
  }
  for (const RankGroup& group : rank_groups) {
    if (n > most_followed && group.least > 0) continue;
    LineLayer lines{.color = std::string(group.color), .width = group.least > 0 ? 0.7 : n > most_followed ? 1.1 : 1.8};
    std::vector<Index> members = members_of(group, sample);
    if (n > most_followed && members.size() > most_lines) {
      std::vector<Index> some;
      for (const Index k : spread_points(sample.objectives(Eigen::all, members), static_cast<Index>(most_lines)))
        some.push_back(members[static_cast<std::size_t>(k)]);
      members = std::move(some);
    }
    for (const Index k : members) {
      for (Index i = 0; i < n; ++i) {
        lines.x.push_back(static_cast<double>(i + 1));
        lines.y.push_back(part_of(box, sample, i, k));
      }
      lines.x.push_back(not_known);
      lines.y.push_back(not_known);
    }
    if (!lines.x.empty()) panel.layers.emplace_back(std::move(lines));
  }
  return panel;
}

/// Points in as many equal groups as there are colours, by their rank; the best on top.
Panel scatter_panel(const Problem& problem, const Box& box, const Matrix& points, const std::vector<double>& values) {
  Panel panel = panel_over(problem, box);
  panel.title = "points, the best sixth dark";
  std::vector<std::size_t> order;
  for (std::size_t k = 0; k < values.size(); ++k) {
    if (std::isfinite(values[k])) order.push_back(k);
  }
  std::ranges::sort(order, {}, [&](std::size_t k) { return problem.sign() * values[k]; });
  for (std::size_t group = value_colors.size(); group-- > 0;) {
    const std::size_t first = group * order.size() / value_colors.size(),
                      last = (group + 1) * order.size() / value_colors.size();
    PointLayer layer{.marker = Marker::dot, .color = std::string(value_colors[group]), .size = group == 0 ? 1.1 : 0.9};
    for (std::size_t k = first; k < last; ++k) {
      layer.x.push_back(points(0, static_cast<Index>(order[k])));
      layer.y.push_back(points(1, static_cast<Index>(order[k])));
    }
    if (!layer.x.empty()) panel.layers.emplace_back(std::move(layer));
  }
  return panel;
}

Panel value_panel(const Problem& problem, const Box& box, const Matrix& points, const std::vector<double>& values,
                  Index variable, bool logarithmic) {
  Panel panel;
  panel.x.label = axis_name(problem.variables()[static_cast<std::size_t>(variable)]);
  panel.y.label = "value";
  panel.y.logarithmic = logarithmic;
  const Vector row = points.row(variable);
  panel.x.range = std::array{box.lower[variable], box.upper[variable]};
  PointLayer dots{.marker = Marker::dot, .color = std::string(series_colors[0]), .size = 0.6};
  for (std::size_t k = 0; k < values.size(); ++k) {
    if (!std::isfinite(values[k])) continue;
    dots.x.push_back(row[static_cast<Index>(k)]);
    dots.y.push_back(values[k]);
  }
  if (!dots.x.empty()) panel.layers.emplace_back(std::move(dots));
  return panel;
}

std::string_view sampling_word(Sampling sampling) {
  switch (sampling) {
  case Sampling::uniform: return "uniform points";
  case Sampling::latin_hypercube: return "points of a Latin hypercube";
  case Sampling::sobol: break;
  }
  return "Sobol points";
}

Figure figure_of_several(const Problem& problem, const Box& box, const Sample& sample, std::uint64_t seed) {
  Figure figure;
  const auto front = std::ranges::count(sample.ranks, 0), broken = std::ranges::count(sample.ranks, -1);
  figure.title = fmt::format("{}: {} members at random", problem.name(), sample.points.cols());
  figure.caption = fmt::format("{} on the front; {} infeasible or without a value; seed {}", front, broken, seed);
  figure.panels.push_back(objective_space(problem, sample));
  figure.panels.push_back(decision_space(problem, box, sample));
  return figure;
}

} // namespace

Figure sample_figure(const Problem& problem, Index count, Sampling sampling, std::uint64_t seed) {
  constexpr Index most_variables = 6;
  const Box box = problem.sampling_box();
  const Sample sample = draw_sample(problem, count, sampling, seed);
  if (problem.objectives().size() > 1) return figure_of_several(problem, box, sample, seed);
  const Matrix& points = sample.points;
  const Vector values = sample.objectives.row(0);
  const std::vector<double> heights(values.begin(), values.end());
  std::vector<double> finite = heights;
  std::erase_if(finite, [](double value) { return !std::isfinite(value); });
  Figure figure;
  figure.title = fmt::format("{}: {} {}", problem.name(), count, sampling_word(sampling));
  std::ranges::sort(finite);
  figure.caption = finite.empty()
                       ? "no point has a value"
                       : fmt::format("least value {}, median {}, largest {}; {} without a value; seed {}",
                                     short_number(finite.front(), 4), short_number(finite[finite.size() / 2], 4),
                                     short_number(finite.back(), 4), heights.size() - finite.size(), seed);
  if (problem.dimension() == 2) {
    figure.panels.push_back(scatter_panel(problem, box, points, heights));
    figure.panels.back().width = 1.3;
  }
  const bool logarithmic = wants_logarithm(finite);
  for (Index j = 0; j < std::min(problem.dimension(), most_variables); ++j)
    figure.panels.push_back(value_panel(problem, box, points, heights, j, logarithmic));
  if (figure.panels.size() > 3) figure.columns = (figure.panels.size() + 1) / 2;
  return figure;
}

} // namespace tanzen
