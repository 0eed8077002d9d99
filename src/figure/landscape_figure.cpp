#include "tanzen/figure/landscape_figure.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/figure/field.hpp"
#include "tanzen/numeric/constants.hpp"

#include "constraint_layers.hpp"
#include "surface_panel.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

Vector usual_point(const Problem& problem) {
  for (const KnownMinimum& minimum : problem.known_minima()) {
    if (minimum.global) return minimum.point;
  }
  return problem.start() ? *problem.start() : problem.region().center();
}

PointLayer minima_marks(const Problem& problem) {
  return {.marker = Marker::cross,
          .color = "#ffffff",
          .size = 1.4,
          .label = problem.sense() == Sense::minimize ? "known minimum" : "known maximum"};
}

/// The function along a line, sampled evenly; where a pole makes the values huge they are cut for the axis.
LineLayer sampled_curve(const Problem& problem, const Vector& from, const Vector& to, double first, double last) {
  constexpr int samples = 1200;
  LineLayer curve{.color = std::string(series_colors[0]), .width = 2};
  const auto worker = problem.objective().worker();
  for (int k = 0; k <= samples; ++k) {
    const double part = static_cast<double>(k) / samples;
    const double value = worker->value(from + part * (to - from));
    curve.x.push_back(first + part * (last - first));
    curve.y.push_back(std::isfinite(value) ? value : not_known);
  }
  return curve;
}

/// The range of an axis that a few huge values must not set, and how it is drawn.
void fit_axis(Axis& axis, const std::vector<double>& values) {
  std::vector<double> finite;
  std::ranges::copy_if(values, std::back_inserter(finite), [](double value) { return std::isfinite(value); });
  if (finite.empty()) return;
  std::ranges::sort(finite);
  const auto at = [&](double part) {
    return finite[static_cast<std::size_t>(part * static_cast<double>(finite.size() - 1))];
  };
  if (finite.front() > 0 && at(0.95) > 1e3 * at(0.05)) {
    axis.logarithmic = true;
    return;
  }
  const double middle = at(0.97) - at(0.03);
  const bool has_spikes = finite.back() - finite.front() > 20 * middle && middle > 0;
  double low = has_spikes ? at(0.03) - 0.5 * middle : finite.front(),
         high = has_spikes ? at(0.97) + 0.5 * middle : finite.back();
  const double margin = high > low ? 0.05 * (high - low) : std::max(1.0, 0.1 * std::abs(high));
  axis.range = std::array{low - margin, high + margin};
}

Panel curve_panel(const Problem& problem) {
  const Box region = problem.region();
  check_width(problem, 0, region.lower[0], region.upper[0]);
  Panel panel;
  panel.x = {.label = axis_name(problem.variables()[static_cast<std::size_t>(0)]),
             .range = std::array{region.lower[0], region.upper[0]}};
  panel.y.label = "value";
  LineLayer curve = sampled_curve(problem, region.lower, region.upper, region.lower[0], region.upper[0]);
  fit_axis(panel.y, curve.y);
  PointLayer minima = minima_marks(problem);
  minima.color = std::string(path_color);
  for (const KnownMinimum& minimum : problem.known_minima()) {
    if (panel.y.logarithmic && !(minimum.value > 0)) continue;
    minima.x.push_back(minimum.point[0]);
    minima.y.push_back(minimum.value);
  }
  panel.layers.emplace_back(std::move(curve));
  if (!minima.x.empty()) panel.layers.emplace_back(std::move(minima));
  return panel;
}

/// In a plane through a point only the minima that lie in it are marked.
PointLayer minima_in_plane(const Problem& problem, const Vector& through, Index first, Index second) {
  PointLayer minima = minima_marks(problem);
  for (const KnownMinimum& minimum : problem.known_minima()) {
    Vector away = minimum.point - through;
    away[first] = away[second] = 0;
    if (away.norm() > 1e-9 * (1 + through.norm()) || !problem.region().contains(minimum.point)) continue;
    minima.x.push_back(minimum.point[first]);
    minima.y.push_back(minimum.point[second]);
  }
  return minima;
}

Panel plane_panel(const Problem& problem, const Vector& through, Index first, Index second, Index resolution,
                  bool surface) {
  const Box region = problem.region();
  Panel panel;
  panel.x = {.label = axis_name(problem.variables()[static_cast<std::size_t>(first)]),
             .range = std::array{region.lower[first], region.upper[first]}};
  panel.y = {.label = axis_name(problem.variables()[static_cast<std::size_t>(second)]),
             .range = std::array{region.lower[second], region.upper[second]}};
  FieldLayer field = plane_field(problem, through, first, second, surface ? 161 : resolution);
  PointLayer minima = minima_in_plane(problem, through, first, second);
  if (surface) {
    if (minima.x.empty()) return surface_panel(std::move(panel), std::move(field), {});
    return surface_panel(std::move(panel), std::move(field), {std::move(minima)});
  }
  panel.layers.emplace_back(std::move(field));
  add_constraints(
      panel, problem, through, first, second,
      {Vector{{region.lower[first], region.lower[second]}}, Vector{{region.upper[first], region.upper[second]}}});
  if (!minima.x.empty()) panel.layers.emplace_back(std::move(minima));
  return panel;
}

std::vector<std::pair<Index, Index>> planes_to_show(const Problem& problem, const LandscapeOptions& options) {
  constexpr Index most_for_all_pairs = 4;
  if (options.plane) return {*options.plane};
  std::vector<std::pair<Index, Index>> planes{{0, 1}};
  if (problem.dimension() > most_for_all_pairs || options.surface) return planes;
  planes.clear();
  for (Index i = 0; i < problem.dimension(); ++i) {
    for (Index j = i + 1; j < problem.dimension(); ++j) planes.emplace_back(i, j);
  }
  return planes;
}

} // namespace

Figure landscape_figure(const Problem& problem, const LandscapeOptions& options) {
  Figure figure;
  figure.title = problem.title().empty() ? problem.name() : fmt::format("{}: {}", problem.name(), problem.title());
  figure.caption = fmt::format("{}, {}", problem.name(), counted(problem.dimension(), "variable"));
  if (problem.dimension() == 1) {
    figure.panels.push_back(curve_panel(problem));
    return figure;
  }
  const Vector through = options.through.value_or(usual_point(problem));
  if (problem.dimension() > 2) figure.caption += fmt::format(", through {}", point_text(through, 4));
  const auto planes = planes_to_show(problem, options);
  figure.columns = planes.size() > 1 ? 3 : 1;
  const Index resolution = std::min<Index>(options.resolution, planes.size() > 1 ? 240 : options.resolution);
  for (const auto& [first, second] : planes) {
    figure.panels.push_back(plane_panel(problem, through, first, second, resolution, options.surface));
  }
  return figure;
}

Figure slice_figure(const Problem& problem, const Vector& from, const Vector& to) {
  Figure figure;
  figure.title = fmt::format("{} along a line", problem.name());
  figure.caption = fmt::format("{}, from {} to {}", problem.name(), point_text(from, 5, 5), point_text(to, 5, 5));
  const double length = (to - from).norm();
  Panel panel;
  panel.x = {.label = "distance from the start of the line", .range = std::array{0.0, length}};
  panel.y.label = "value";
  LineLayer curve = sampled_curve(problem, from, to, 0, length);
  fit_axis(panel.y, curve.y);
  const double start = curve.y.front();
  panel.layers.emplace_back(std::move(curve));
  if (problem.objective().derivatives() != Derivatives::none && std::isfinite(start) && !panel.y.logarithmic) {
    const double slope = problem.gradient(from).dot(to - from) / length;
    const double reach = 0.25 * length;
    figure.caption += fmt::format("; slope at the start {}", short_number(slope, 5));
    panel.layers.emplace_back(LineLayer{.x = {0, reach},
                                        .y = {start, start + slope * reach},
                                        .color = std::string(series_colors[1]),
                                        .width = 1.6,
                                        .dash = 2,
                                        .label = "slope by the gradient"});
  }
  panel.layers.emplace_back(PointLayer{.x = {0}, .y = {start}, .marker = Marker::ring, .size = 1.5, .label = "start"});
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
