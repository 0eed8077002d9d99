#include "tanzen/figure/fit_figure.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/field.hpp"
#include "tanzen/figure/solve_figure.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/statistics/distributions.hpp"

#include "path_layers.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace tanzen {
namespace {

/// What stands where in the table of a fit, as one equation sees it.
struct Data {
  const DataTable& table;
  Index equation;
  std::string observed; ///< the model's left side
  std::vector<Index> predictors;
  Vector values; ///< observed
  Vector fitted;
  Vector residuals; ///< weighted
  Vector errors;    ///< of the rows; empty where none are given

  Data(const Problem& problem, const FitStatistics& fit, Index k)
      : table(*problem.definition()->fit->table), equation(k), predictors(predictor_columns(*problem.definition())) {
    const FitDefinition& definition = *problem.definition()->fit;
    const FitEquation& own = definition.equations[static_cast<std::size_t>(k)];
    const Index rows = table.rows.rows(), each = static_cast<Index>(definition.equations.size());
    observed = split(own.model, '=').front();
    residuals = fit.residuals(Eigen::seqN(k, rows, each));
    fitted.resize(rows);
    for (Index row = 0; row < rows; ++row) fitted[row] = predict(problem, fit, table.rows.row(row), k).value;
    const auto column = observed_columns(definition)[static_cast<std::size_t>(k)];
    values = column ? Vector(table.rows.col(*column)) : fitted; // of a formula on the left its residuals are shown
    if (own.errors.empty()) return;
    const auto& sum = dynamic_cast<const LossSum&>(*problem.scalarization());
    errors.resize(rows);
    for (Index row = 0; row < rows; ++row) errors[row] = 1 / sum.weight(row * each + k);
  }
};

PointLayer points_of(const Vector& x, const Vector& y) {
  constexpr Index many = 500;
  return {.x = {x.begin(), x.end()},
          .y = {y.begin(), y.end()},
          .marker = Marker::dot,
          .color = std::string(path_color),
          .size = x.size() > many ? 0.4 : 0.9};
}

/// An axis that all numbers have room on, with room for its own.
void set_range(Axis& axis, const Vector& numbers) {
  const double low = numbers.minCoeff(), high = numbers.maxCoeff();
  const double margin = high > low ? 0.04 * (high - low) : std::max(1.0, 0.1 * std::abs(high));
  axis.range = std::array{low - margin, high + margin};
}

LineLayer level(double from, double to, double y) {
  return {.x = {from, to}, .y = {y, y}, .color = std::string(axis_color), .width = 1};
}

/// The curve over one predictor, with its bands, and as it was before.
void add_curve(Panel& panel, const Problem& problem, const FitStatistics& fit, const Data& data, const Vector& start) {
  constexpr Index places = 200;
  const Index predictor = data.predictors.front();
  const Vector column = data.table.rows.col(predictor);
  FitStatistics before = fit;
  for (std::size_t i = 0; i < before.parameters.size(); ++i) before.parameters[i].value = start[static_cast<Index>(i)];
  BandLayer of_new{.color = "#d9d2c6"}, of_model{.color = std::string(series_colors[0])};
  LineLayer after{.color = std::string(series_colors[0]), .width = 2.2, .label = "fitted"};
  LineLayer first{.color = std::string(series_colors[1]), .width = 1.4, .dash = 2, .label = "at the start"};
  Vector columns = Vector::Zero(static_cast<Index>(data.table.columns.size()));
  for (const double x : Vector::LinSpaced(places, column.minCoeff(), column.maxCoeff())) {
    columns[predictor] = x;
    const Prediction now = predict(problem, fit, columns, data.equation);
    for (auto* layer : {&of_new, &of_model}) {
      const double half = layer == &of_new ? now.half_width_of_new : now.half_width;
      layer->x.push_back(x);
      layer->lower.push_back(now.value - half);
      layer->upper.push_back(now.value + half);
    }
    after.x.push_back(x);
    after.y.push_back(std::isfinite(now.value) ? now.value : not_known);
    const double value = predict(problem, before, columns, data.equation).value;
    first.x.push_back(x);
    first.y.push_back(std::isfinite(value) ? value : not_known);
  }
  const double span = data.values.maxCoeff() - data.values.minCoeff();
  const double low = data.values.minCoeff() - 0.3 * span, high = data.values.maxCoeff() + 0.3 * span;
  for (double& y : first.y)
    if (!(y >= low && y <= high)) y = not_known; // a start far away must not set the scale
  set_range(panel.x, column);
  panel.layers.emplace_back(std::move(of_new));
  panel.layers.emplace_back(std::move(of_model));
  panel.layers.emplace_back(std::move(first));
  panel.layers.emplace_back(std::move(after));
  if (data.errors.size() > 0) {
    LineLayer bars{.width = 1};
    for (Index k = 0; k < column.size(); ++k) {
      bars.x.insert(bars.x.end(), {column[k], column[k], not_known});
      bars.y.insert(bars.y.end(), {data.values[k] - data.errors[k], data.values[k] + data.errors[k], not_known});
    }
    panel.layers.emplace_back(std::move(bars));
  }
  panel.x.label = data.table.columns[static_cast<std::size_t>(predictor)];
  PointLayer points = points_of(column, data.values);
  points.label = "data";
  panel.layers.emplace_back(std::move(points));
}

/// The surface over two predictors, with the data on stalks to it.
void add_surface(Panel& panel, const Problem& problem, const FitStatistics& fit, const Data& data) {
  constexpr Index places = 41;
  const Index first = data.predictors[0], second = data.predictors[1];
  const Vector across = data.table.rows.col(first), along = data.table.rows.col(second);
  FieldLayer field{.x = Vector::LinSpaced(places, across.minCoeff(), across.maxCoeff()),
                   .y = Vector::LinSpaced(places, along.minCoeff(), along.maxCoeff()),
                   .values = Matrix(places, places),
                   .levels = {}};
  Vector columns = Vector::Zero(static_cast<Index>(data.table.columns.size()));
  for (Index i = 0; i < places; ++i) {
    for (Index j = 0; j < places; ++j) {
      columns[first] = field.x[j];
      columns[second] = field.y[i];
      const double value = predict(problem, fit, columns, data.equation).value;
      field.values(i, j) = std::isfinite(value) ? value : not_known;
    }
  }
  field.levels = contour_levels(field.values, Sense::minimize);
  field.scale = false;
  LineLayer stalks{.width = 1};
  PointLayer points = points_of(across, along);
  for (Index row = 0; row < across.size(); ++row) {
    stalks.x.insert(stalks.x.end(), {across[row], across[row], not_known});
    stalks.y.insert(stalks.y.end(), {along[row], along[row], not_known});
    stalks.z.insert(stalks.z.end(), {data.fitted[row], data.values[row], not_known});
    points.z.push_back(data.values[row]);
  }
  panel.x.label = data.table.columns[static_cast<std::size_t>(first)];
  panel.y.label = data.table.columns[static_cast<std::size_t>(second)];
  panel.z.label = data.observed;
  set_range(panel.x, field.x);
  set_range(panel.y, field.y);
  Vector heights(field.values.size() + data.values.size());
  heights << field.values.reshaped().unaryExpr(
      [&](double value) { return std::isfinite(value) ? value : data.values[0]; }),
      data.values;
  set_range(panel.z, heights);
  panel.layers.emplace_back(SurfaceLayer{std::move(field)});
  panel.layers.emplace_back(std::move(stalks));
  panel.layers.emplace_back(std::move(points));
}

Panel data_panel(const Problem& problem, const FitStatistics& fit, const Data& data, const Vector& start) {
  Panel panel;
  panel.y.label = data.observed;
  if (data.predictors.size() == 1) {
    add_curve(panel, problem, fit, data, start);
    return panel;
  }
  if (data.predictors.size() == 2) {
    add_surface(panel, problem, fit, data);
    return panel;
  }
  panel.title = "observed against fitted";
  panel.x.label = "fitted";
  const double low = std::min(data.fitted.minCoeff(), data.values.minCoeff());
  const double high = std::max(data.fitted.maxCoeff(), data.values.maxCoeff());
  panel.layers.emplace_back(
      LineLayer{.x = {low, high}, .y = {low, high}, .color = std::string(axis_color), .width = 1});
  panel.layers.emplace_back(points_of(data.fitted, data.values));
  return panel;
}

/// The sum over two parameters, with the path to the least.
Panel landscape_of_sum(const Fit& made) {
  Box box = picture_box(made.problem, made.outcome.trace);
  // Beyond zero, where no iterate was, most models have a pole or another branch.
  for (Index i = 0; i < 2; ++i) {
    const std::vector<double> along = coordinate(made.outcome.trace, i);
    if (std::ranges::all_of(along, [](double x) { return x > 0; })) box.lower[i] = std::max(box.lower[i], 0.0);
    if (std::ranges::all_of(along, [](double x) { return x < 0; })) box.upper[i] = std::min(box.upper[i], 0.0);
  }
  Panel panel = landscape_panel(made.problem, box, landscape_field(made.problem, box));
  panel.title = "sum of squares";
  if (dynamic_cast<const LossSum&>(*made.problem.scalarization()).loss().kind != Loss::Kind::squares)
    panel.title = "sum of losses";
  add_path(panel, coordinate(made.outcome.trace, 0), coordinate(made.outcome.trace, 1), box, made.outcome.trace, {});
  clear_labels(panel); // the title stands there
  return panel;
}

Panel residual_panel(const std::string& title, const std::string& label, const Vector& x, const Vector& residuals) {
  Panel panel;
  panel.title = title;
  panel.x.label = label;
  set_range(panel.x, x);
  set_range(panel.y, residuals);
  panel.layers.emplace_back(level(x.minCoeff(), x.maxCoeff(), 0));
  panel.layers.emplace_back(points_of(x, residuals));
  return panel;
}

/// Studentized residuals in order against the quantiles that a normal distribution would give them (Blom, 1958).
Panel normal_panel(const FitStatistics& fit) {
  std::vector<double> sorted;
  for (const double residual : fit.studentized)
    if (std::isfinite(residual)) sorted.push_back(residual);
  std::ranges::sort(sorted);
  Panel panel;
  panel.title = "studentized residuals";
  panel.x.label = "of a normal distribution";
  if (sorted.empty()) return panel;
  std::vector<double> quantiles;
  for (std::size_t k = 0; k < sorted.size(); ++k)
    quantiles.push_back(
        normal_quantile((static_cast<double>(k) + 0.625) / (static_cast<double>(sorted.size()) + 0.25)));
  panel.x.range = std::array{quantiles.front() - 0.2, quantiles.back() + 0.2};
  panel.layers.emplace_back(LineLayer{.x = {quantiles.front(), quantiles.back()},
                                      .y = {quantiles.front(), quantiles.back()},
                                      .color = std::string(axis_color),
                                      .width = 1});
  panel.layers.emplace_back(PointLayer{.x = std::move(quantiles), .y = std::move(sorted), .size = 0.9});
  return panel;
}

} // namespace

Figure fit_figure(const Fit& made, const FitStatistics& fit) {
  const Problem& problem = made.problem;
  const auto& definition = problem.definition();
  if (definition == nullptr || !definition->fit || definition->fit->equations.front().model.empty())
    throw ProblemError(fmt::format("{} is not drawn as a fit: it is not built from a model of data", problem.name()));
  Figure figure;
  figure.title = problem.title().empty() ? problem.name() : fmt::format("{}: {}", problem.name(), problem.title());
  std::vector<std::string> values;
  for (const ParameterEstimate& each : fit.parameters)
    values.push_back(std::isnan(each.error) ? fmt::format("{} {}", each.name, short_number(each.value, 5))
                                            : fmt::format("{} {} +- {}", each.name, short_number(each.value, 5),
                                                          short_number(each.error, 2)));
  figure.caption = fmt::format("{}; {}, residual standard deviation {}", clipped(joined(values, ", "), 100),
                               counted(fit.observations, "observation"), short_number(fit.residual_sd, 4));
  const auto equations = static_cast<Index>(definition->fit->equations.size());
  for (Index k = 0; k < equations; ++k)
    figure.panels.push_back(data_panel(problem, fit, Data(problem, fit, k), made.start));
  for (Index k = 0; k < equations; ++k) {
    const Data data(problem, fit, k);
    const std::string title = equations == 1 ? "residuals" : "residuals of " + data.observed;
    figure.panels.push_back(residual_panel(title, "fitted", data.fitted, data.residuals));
    if (equations > 1) continue;
    Vector order(data.residuals.size());
    std::iota(order.begin(), order.end(), 1.0);
    figure.panels.push_back(residual_panel("residuals", "row", order, data.residuals));
  }
  figure.panels.push_back(normal_panel(fit));
  const bool has_path = made.outcome.trace.rows() > 0 && made.outcome.trace.has_points();
  if (problem.dimension() == 2 && has_path) figure.panels.push_back(landscape_of_sum(made));
  figure.columns = figure.panels.size() > 4 ? 3 : 2;
  if (figure.columns < 3) return figure;
  // Above narrow panels there is no room for a key.
  for (Panel& panel : figure.panels) {
    for (Layer& layer : panel.layers) {
      if (auto* line = std::get_if<LineLayer>(&layer)) line->label.clear();
      if (auto* points = std::get_if<PointLayer>(&layer)) points->label.clear();
    }
  }
  figure.caption += "; dashed: at the start";
  return figure;
}

} // namespace tanzen
