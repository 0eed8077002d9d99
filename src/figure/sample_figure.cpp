#include "tanzen/figure/sample_figure.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/sampling.hpp"

#include "path_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::array<std::string_view, 6> value_colors = {"#16213e", "#46285a", "#7a3b52",
                                                          "#b65a3c", "#d29a72", "#e3cfa4"};

Matrix sampled_points(const Box& box, Index count, Sampling sampling, std::uint64_t seed) {
  const RandomStream random(seed, {"sample"});
  switch (sampling) {
  case Sampling::uniform: return uniform_points(box, count, random);
  case Sampling::latin_hypercube: return latin_hypercube_points(box, count, random);
  case Sampling::sobol: break;
  }
  return sobol_points(box, count, random);
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

} // namespace

Figure sample_figure(const Problem& problem, Index count, Sampling sampling, std::uint64_t seed) {
  constexpr Index most_variables = 6;
  const Box box = problem.sampling_box();
  const Matrix points = sampled_points(box, count, sampling, seed);
  Vector values;
  problem.objective().worker()->values(points, values);
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
