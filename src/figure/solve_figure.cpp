#include "tanzen/figure/solve_figure.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/figure/field.hpp"
#include "tanzen/figure/front_figure.hpp"
#include "tanzen/numeric/constants.hpp"

#include "constraint_layers.hpp"
#include "path_layers.hpp"
#include "shown_values.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

Panel contour_panel(const Problem& problem, const Outcome& outcome, const Film& film) {
  const Trace& trace = outcome.trace;
  const Box box = picture_box(problem, trace);
  Panel panel = landscape_panel(problem, box, landscape_field(problem, box));
  panel.width = 1.45;
  add_path(panel, coordinate(trace, 0), coordinate(trace, 1), box, trace, film);
  add_balance(panel, problem, outcome, box);
  return panel;
}

Panel curve_panel(const Problem& problem, const Trace& trace, const Film& film) {
  constexpr Index resolution = 1000;
  const Box box = picture_box(problem, trace);
  const Vector x = Vector::LinSpaced(resolution, box.lower[0], box.upper[0]);
  LineLayer curve{.x = {x.begin(), x.end()}, .y = {}, .color = std::string(series_colors[0]), .width = 2};
  const auto worker = problem.objective().worker();
  Vector point(1);
  for (const double value : x) {
    point[0] = value;
    const double y = worker->value(point);
    curve.y.push_back(std::isfinite(y) ? y : not_known);
  }
  Panel panel;
  panel.x = {.label = axis_name(problem.variables()[0]), .range = std::array{box.lower[0], box.upper[0]}};
  panel.y.label = "value";
  panel.y.logarithmic = wants_logarithm(curve.y);
  panel.width = 1.2;
  const auto [least, most] = std::ranges::minmax_element(curve.y, {}, [](double v) { return std::isnan(v) ? 0 : v; });
  Box picture{Vector{{box.lower[0], *least}}, Vector{{box.upper[0], std::max(*most, *least + 1e-300)}}};
  panel.layers.emplace_back(std::move(curve));
  add_path(panel, coordinate(trace, 0), trace.column("value"), picture, trace, film, {.connected = false});
  return panel;
}

/// One column of the trace against the iterations, with dots where they are few, and a mark that goes along.
Panel history_panel(const std::string& label, std::vector<double> values, const Trace& trace, const Film& film) {
  constexpr std::size_t most_dots = 60;
  std::vector<double> iterations = trace.column("iteration");
  Panel panel;
  panel.title = label;
  panel.x = iteration_axis(iterations);
  panel.y.logarithmic = wants_logarithm(values);
  for (double& value : values) {
    if (!std::isfinite(value)) value = not_known;
  }
  const bool dotted = values.size() <= most_dots;
  if (dotted)
    panel.layers.emplace_back(
        PointLayer{.x = iterations, .y = values, .color = std::string(series_colors[0]), .size = 0.7});
  panel.layers.emplace_back(LineLayer{.x = iterations, .y = values, .color = std::string(series_colors[0])});
  add_moving_mark(panel, iterations, values, trace, film, std::string(path_color));
  return panel;
}

/// The value, or where it falls over decades to a limit its distance from that.
Panel value_panel(const Outcome& outcome, const Film& film) {
  const Trace& trace = outcome.trace;
  const ShownValues shown = shown_values({trace.column("value")}, outcome.best_known, sign_of(outcome.sense));
  Panel panel = history_panel(shown.title, shown.series.front(), trace, film);
  panel.y.logarithmic = shown.logarithmic;
  add_floor(panel, shown, 0, (*panel.x.range)[1]);
  return panel;
}

bool has_numbers(const std::vector<double>& values) {
  return std::ranges::any_of(values, [](double value) { return std::isfinite(value); });
}

Panel variables_panel(const Problem& problem, const Trace& trace, const Film& film) {
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
    line.series = problem.variables()[series].name;
    if (n <= most_labelled) line.label = line.series;
    panel.layers.emplace_back(line);
    if (n <= most_labelled) add_moving_mark(panel, line.x, line.y, trace, film, line.color, line.series);
  }
  return panel;
}

Panel column_panel(const Trace& trace, const Film& film, std::string name) {
  std::vector<double> values = trace.column(name);
  std::ranges::replace(values, 0.0, not_known); // a logarithmic axis has no zero
  std::ranges::replace(name, '_', ' ');
  return history_panel(name, std::move(values), trace, film);
}

Panel violation_panel(const Trace& trace, const Film& film) {
  Panel panel = column_panel(trace, film, "violation");
  panel.title = "violation, where constraints are broken";
  return panel;
}

/// What the method measures its progress by: the gradient norm, or without one its first own column that is positive
/// throughout, or the step norm.
Panel progress_panel(const Trace& trace, const Film& film) {
  std::string name = has_numbers(trace.column("gradient_norm")) ? "gradient_norm" : "step_norm";
  if (name == "step_norm") {
    const auto is_measure = [&](const std::string& column) { return wants_logarithm(trace.column(column)); };
    const auto own = std::ranges::find_if(trace.method_columns(), is_measure);
    if (own != trace.method_columns().end()) name = *own;
  }
  return column_panel(trace, film, std::move(name));
}

std::string caption_of(const Outcome& outcome) {
  return fmt::format("{} on {}, {}, from {}, seed {}: {}", outcome.method_label, outcome.problem,
                     counted(outcome.dimension(), "variable"), point_text(outcome.start, 4, 4), outcome.seed,
                     outcome.message);
}

} // namespace

Box picture_box(const Problem& problem, const Trace& trace) {
  constexpr double room = 0.05;
  Box box = problem.region();
  const bool has_region = problem.has_region();
  for (Index k = 0; k < problem.dimension(); ++k) {
    std::vector<double> values = coordinate(trace, k);
    std::erase_if(values, [](double value) { return !std::isfinite(value); });
    if (values.empty()) continue;
    double& lower = box.lower[k];
    double& upper = box.upper[k];
    double least = *std::ranges::min_element(values), most = *std::ranges::max_element(values);
    if (!has_region && most - least < 3 * (upper - lower)) {
      const double margin = 0.25 * std::max(most - least, 1e-6 * (1 + std::abs(most)));
      lower = least - margin;
      upper = most + margin;
      continue;
    }
    // The start is always held; a path that runs away from there and from the region is not followed for ever.
    const double low = std::min(lower, values.front()), high = std::max(upper, values.front());
    const double widest = 3 * (high - low), center = 0.5 * (low + high);
    least = std::max(least, center - widest / 2);
    most = std::min(most, center + widest / 2);
    const double margin = room * (std::max(most, upper) - std::min(least, lower));
    lower = std::min(lower, least - margin);
    upper = std::max(upper, most + margin);
  }
  return box;
}

Figure solve_figure(const Problem& problem, const Outcome& outcome) {
  if (outcome.objectives.size() > 1) return front_figure(problem, outcome);
  Figure figure;
  figure.title = fmt::format("{}, {}", outcome.problem, outcome.method_label);
  figure.caption = caption_of(outcome);
  const Trace& trace = outcome.trace;
  const Film film(Trace::iteration, {&trace});
  figure.frames = film.names();
  figure.seconds = film.seconds();
  if (problem.dimension() == 1 && trace.has_points()) figure.panels.push_back(curve_panel(problem, trace, film));
  if (problem.dimension() == 2 && trace.has_points()) figure.panels.push_back(contour_panel(problem, outcome, film));
  figure.panels.push_back(value_panel(outcome, film));
  if (figure.panels.size() > 1) return figure;

  figure.arrangement = Figure::Arrangement::stacked;
  if (!problem.constraints().empty()) figure.panels.push_back(violation_panel(trace, film));
  if (trace.has_column("multiplier_norm"))
    figure.panels.push_back(column_panel(trace, film, "multiplier_norm"));
  else
    figure.panels.push_back(progress_panel(trace, film));
  if (trace.has_points()) figure.panels.push_back(variables_panel(problem, trace, film));
  return figure;
}

} // namespace tanzen
