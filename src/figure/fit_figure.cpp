#include "tanzen/figure/fit_figure.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/problem/definition.hpp"

#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace tanzen {
namespace {

constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

/// What stands where in the table of a fit.
struct Data {
  const DataTable& table;
  std::string observed; ///< the model's left side
  std::vector<Index> predictors;
  Vector values; ///< observed
  Vector fitted;
  Vector errors; ///< of the rows; empty where none are given

  Data(const Problem& problem, const FitStatistics& fit)
      : table(*problem.definition()->fit->table), observed(split(problem.definition()->fit->model, '=').front()) {
    const FitDefinition& definition = *problem.definition()->fit;
    const Index m = table.rows.rows();
    for (std::size_t k = 0; k < table.columns.size(); ++k) {
      const auto column = static_cast<Index>(k);
      if (table.columns[k] == observed)
        values = table.rows.col(column);
      else if (table.columns[k] == definition.errors)
        errors = table.rows.col(column);
      else
        predictors.push_back(column);
    }
    fitted.resize(m);
    for (Index row = 0; row < m; ++row) fitted[row] = predict(problem, fit, table.rows.row(row)).value;
    if (values.size() == 0) values = fitted; // a left side that is a formula: its residuals are shown
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

LineLayer level(double from, double to, double y) {
  return {.x = {from, to}, .y = {y, y}, .color = std::string(axis_color), .width = 1};
}

/// The curve over one predictor, with its bands, and as it was before.
void add_curve(Panel& panel, const Problem& problem, const FitStatistics& fit, const Data& data, const Vector& start) {
  constexpr Index places = 200;
  const Index predictor = data.predictors.front();
  const Vector column = data.table.rows.col(predictor);
  const double margin = 0.03 * (column.maxCoeff() - column.minCoeff());
  FitStatistics before = fit;
  for (std::size_t i = 0; i < before.parameters.size(); ++i) before.parameters[i].value = start[static_cast<Index>(i)];
  BandLayer of_new{.color = "#d9d2c6"}, of_model{.color = std::string(series_colors[0])};
  LineLayer after{.color = std::string(series_colors[0]), .width = 2.2, .label = "fitted"};
  LineLayer first{.color = std::string(series_colors[1]), .width = 1.4, .dash = 2, .label = "at the start"};
  Vector columns = Vector::Zero(static_cast<Index>(data.table.columns.size()));
  for (const double x : Vector::LinSpaced(places, column.minCoeff() - margin, column.maxCoeff() + margin)) {
    columns[predictor] = x;
    const Prediction now = predict(problem, fit, columns);
    for (auto* layer : {&of_new, &of_model}) {
      const double half = layer == &of_new ? now.half_width_of_new : now.half_width;
      layer->x.push_back(x);
      layer->lower.push_back(now.value - half);
      layer->upper.push_back(now.value + half);
    }
    after.x.push_back(x);
    after.y.push_back(std::isfinite(now.value) ? now.value : unknown);
    const double value = predict(problem, before, columns).value;
    first.x.push_back(x);
    first.y.push_back(std::isfinite(value) ? value : unknown);
  }
  const double span = data.values.maxCoeff() - data.values.minCoeff();
  const double low = data.values.minCoeff() - 0.3 * span, high = data.values.maxCoeff() + 0.3 * span;
  for (double& y : first.y)
    if (!(y >= low && y <= high)) y = unknown; // a start far away must not set the scale
  panel.layers.emplace_back(std::move(of_new));
  panel.layers.emplace_back(std::move(of_model));
  panel.layers.emplace_back(std::move(first));
  panel.layers.emplace_back(std::move(after));
  if (data.errors.size() > 0) {
    LineLayer bars{.width = 1};
    for (Index k = 0; k < column.size(); ++k) {
      bars.x.insert(bars.x.end(), {column[k], column[k], unknown});
      bars.y.insert(bars.y.end(), {data.values[k] - data.errors[k], data.values[k] + data.errors[k], unknown});
    }
    panel.layers.emplace_back(std::move(bars));
  }
  panel.x.label = data.table.columns[static_cast<std::size_t>(predictor)];
  PointLayer points = points_of(column, data.values);
  points.label = "data";
  panel.layers.emplace_back(std::move(points));
}

Panel data_panel(const Problem& problem, const FitStatistics& fit, const Data& data, const Vector& start) {
  Panel panel;
  panel.y.label = data.observed;
  if (data.predictors.size() == 1) {
    add_curve(panel, problem, fit, data, start);
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

Panel residual_panel(const std::string& title, const std::string& label, const Vector& x, const Vector& residuals) {
  Panel panel;
  panel.title = title;
  panel.x.label = label;
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
  const boost::math::normal normal;
  std::vector<double> quantiles;
  for (std::size_t k = 0; k < sorted.size(); ++k)
    quantiles.push_back(
        boost::math::quantile(normal, (static_cast<double>(k) + 0.625) / (static_cast<double>(sorted.size()) + 0.25)));
  panel.layers.emplace_back(LineLayer{.x = {quantiles.front(), quantiles.back()},
                                      .y = {quantiles.front(), quantiles.back()},
                                      .color = std::string(axis_color),
                                      .width = 1});
  panel.layers.emplace_back(PointLayer{.x = std::move(quantiles), .y = std::move(sorted), .size = 0.9});
  return panel;
}

} // namespace

Figure fit_figure(const Problem& problem, const Vector& start, const FitStatistics& fit) {
  if (problem.definition() == nullptr || !problem.definition()->fit || problem.definition()->fit->model.empty())
    throw ProblemError(fmt::format("{} is not drawn as a fit: it is not built from a model of data", problem.name()));
  const Data data(problem, fit);
  Figure figure;
  figure.title = problem.title().empty() ? problem.name() : fmt::format("{}: {}", problem.name(), problem.title());
  std::vector<std::string> values;
  for (const ParameterEstimate& each : fit.parameters)
    values.push_back(std::isnan(each.error) ? fmt::format("{} {}", each.name, short_number(each.value, 5))
                                            : fmt::format("{} {} +- {}", each.name, short_number(each.value, 5),
                                                          short_number(each.error, 2)));
  figure.caption = fmt::format("{}; {}, residual standard deviation {}", clipped(joined(values, ", "), 100),
                               counted(fit.observations, "row"), short_number(fit.residual_sd, 4));
  figure.columns = 2;
  Vector order(fit.residuals.size());
  std::iota(order.begin(), order.end(), 1.0);
  figure.panels.push_back(data_panel(problem, fit, data, start));
  figure.panels.push_back(residual_panel("residuals", "fitted", data.fitted, fit.residuals));
  figure.panels.push_back(residual_panel("residuals", "row", order, fit.residuals));
  figure.panels.push_back(normal_panel(fit));
  return figure;
}

} // namespace tanzen
