#include "tanzen/figure/solve_figure.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/figure/field.hpp"
#include "tanzen/figure/front_figure.hpp"

#include "constraint_layers.hpp"
#include "path_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

Panel contour_panel(const Problem& problem, const Outcome& outcome) {
  const Trace& trace = outcome.trace;
  const Box box = picture_box(problem, trace);
  Panel panel = landscape_panel(problem, box, landscape_field(problem, box));
  panel.width = 1.45;
  add_path(panel, coordinate(trace, 0), coordinate(trace, 1), box, true);
  add_balance(panel, problem, outcome, box);
  return panel;
}

Panel curve_panel(const Problem& problem, const Trace& trace) {
  constexpr Index resolution = 1000;
  const Box box = picture_box(problem, trace);
  const Vector x = Vector::LinSpaced(resolution, box.lower[0], box.upper[0]);
  LineLayer curve{.x = {x.begin(), x.end()}, .y = {}, .color = std::string(series_colors[0]), .width = 2};
  const auto worker = problem.objective().worker();
  Vector point(1);
  for (const double value : x) {
    point[0] = value;
    const double y = worker->value(point);
    curve.y.push_back(std::isfinite(y) ? y : unknown);
  }
  Panel panel;
  panel.x = {.label = axis_name(problem.variables()[0]), .range = std::array{box.lower[0], box.upper[0]}};
  panel.y.label = "value";
  panel.y.logarithmic = wants_logarithm(curve.y);
  panel.width = 1.2;
  const auto [least, most] = std::ranges::minmax_element(curve.y, {}, [](double v) { return std::isnan(v) ? 0 : v; });
  Box picture{Vector{{box.lower[0], *least}}, Vector{{box.upper[0], std::max(*most, *least + 1e-300)}}};
  panel.layers.emplace_back(std::move(curve));
  add_path(panel, coordinate(trace, 0), trace.column("value"), picture, false);
  return panel;
}

/// One column of the trace against the iterations, with dots where they are few.
Panel history_panel(const std::string& label, std::vector<double> iterations, std::vector<double> values) {
  constexpr std::size_t most_dots = 60;
  Panel panel;
  panel.title = label;
  panel.x = iteration_axis(iterations);
  panel.y.logarithmic = wants_logarithm(values);
  for (double& value : values) {
    if (!std::isfinite(value)) value = unknown;
  }
  const bool dotted = values.size() <= most_dots;
  if (dotted)
    panel.layers.emplace_back(
        PointLayer{.x = iterations, .y = values, .color = std::string(series_colors[0]), .size = 0.7});
  panel.layers.emplace_back(
      LineLayer{.x = std::move(iterations), .y = std::move(values), .color = std::string(series_colors[0])});
  return panel;
}

/// The value, or where the best is known and the gap spans decades, the gap.
Panel value_panel(const Outcome& outcome) {
  std::vector<double> iterations = outcome.trace.column("iteration");
  std::vector<double> values = outcome.trace.column("value");
  if (outcome.best_known) {
    std::vector<double> gaps = values;
    const double sign = outcome.sense == Sense::minimize ? 1 : -1;
    for (double& gap : gaps) {
      gap = sign * (gap - *outcome.best_known);
      if (!(gap > 0)) gap = unknown; // at the last digit of the best value
    }
    if (wants_logarithm(gaps))
      return history_panel("gap to the best value known", std::move(iterations), std::move(gaps));
  }
  return history_panel("value", std::move(iterations), std::move(values));
}

bool has_numbers(const std::vector<double>& values) {
  return std::ranges::any_of(values, [](double value) { return std::isfinite(value); });
}

Panel variables_panel(const Problem& problem, const Trace& trace) {
  Panel panel;
  panel.title = "variables";
  constexpr Index most_labelled = 8;
  const Index n = problem.dimension();
  const std::vector<double> iterations = trace.column("iteration");
  panel.x = iteration_axis(iterations);
  for (Index k = 0; k < std::min<Index>(n, 40); ++k) {
    const auto series = static_cast<std::size_t>(k);
    LineLayer line{.x = iterations,
                   .y = coordinate(trace, k),
                   .color = std::string(series_colors[series % series_colors.size()]),
                   .width = n <= most_labelled ? 2.0 : 1.0};
    if (n <= most_labelled) line.label = problem.variables()[series].name;
    panel.layers.emplace_back(std::move(line));
  }
  return panel;
}

Panel column_panel(const Trace& trace, std::string name) {
  std::vector<double> values = trace.column(name);
  std::ranges::replace(values, 0.0, unknown); // a logarithmic axis has no zero
  std::ranges::replace(name, '_', ' ');
  return history_panel(name, trace.column("iteration"), std::move(values));
}

Panel violation_panel(const Trace& trace) {
  Panel panel = column_panel(trace, "violation");
  panel.title = "violation, where constraints are broken";
  return panel;
}

/// What the method measures its progress by: the gradient norm, or without one its first own column that is positive
/// throughout, or the step norm.
Panel progress_panel(const Trace& trace) {
  std::string name = has_numbers(trace.column("gradient_norm")) ? "gradient_norm" : "step_norm";
  if (name == "step_norm") {
    const auto is_measure = [&](const std::string& column) { return wants_logarithm(trace.column(column)); };
    const auto own = std::ranges::find_if(trace.method_columns(), is_measure);
    if (own != trace.method_columns().end()) name = *own;
  }
  return column_panel(trace, std::move(name));
}

std::string caption_of(const Outcome& outcome) {
  return fmt::format("{} on {}, {}, from {}, seed {}: {}", outcome.method_label, outcome.problem,
                     counted(outcome.dimension(), "variable"), point_text(outcome.start, 4, 4), outcome.seed,
                     outcome.message);
}

} // namespace

Box picture_box(const Problem& problem, const Trace& trace) {
  Box box = problem.region();
  const bool has_region = problem.has_region();
  for (Index k = 0; k < problem.dimension(); ++k) {
    std::vector<double> values = coordinate(trace, k);
    std::erase_if(values, [](double value) { return !std::isfinite(value); });
    if (values.empty()) continue;
    double& lower = box.lower[k];
    double& upper = box.upper[k];
    const double widest = 3 * (upper - lower);
    double least = *std::ranges::min_element(values), most = *std::ranges::max_element(values);
    if (!has_region && most - least < widest) {
      const double margin = 0.25 * std::max(most - least, 1e-6 * (1 + std::abs(most)));
      lower = least - margin;
      upper = most + margin;
      continue;
    }
    const double center = 0.5 * (lower + upper);
    least = std::max(least, center - widest / 2);
    most = std::min(most, center + widest / 2);
    const double margin = 0.05 * (upper - lower);
    if (least < lower) lower = least - margin;
    if (most > upper) upper = most + margin;
  }
  return box;
}

Figure solve_figure(const Problem& problem, const Outcome& outcome) {
  if (outcome.objectives.size() > 1) return front_figure(problem, outcome);
  Figure figure;
  figure.title = fmt::format("{}, {}", outcome.problem, outcome.method_label);
  figure.caption = caption_of(outcome);
  const Trace& trace = outcome.trace;
  if (problem.dimension() == 1 && trace.has_points()) figure.panels.push_back(curve_panel(problem, trace));
  if (problem.dimension() == 2 && trace.has_points()) figure.panels.push_back(contour_panel(problem, outcome));
  figure.panels.push_back(value_panel(outcome));
  if (figure.panels.size() > 1) return figure;

  figure.arrangement = Figure::Arrangement::stacked;
  if (!problem.constraints().empty()) figure.panels.push_back(violation_panel(trace));
  if (trace.has_column("multiplier_norm"))
    figure.panels.push_back(column_panel(trace, "multiplier_norm"));
  else
    figure.panels.push_back(progress_panel(trace));
  if (trace.has_points()) figure.panels.push_back(variables_panel(problem, trace));
  return figure;
}

} // namespace tanzen
