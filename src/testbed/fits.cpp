#include "fits.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/expression/tape.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/testbed/certified_fits.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <memory>

namespace tanzen::testbed::fits {
namespace {

std::vector<double> places_of(const Predictor& predictor) {
  std::vector<double> places;
  for (Index k = 0; k < predictor.count; ++k) {
    const double part = static_cast<double>(k) / static_cast<double>(predictor.count - 1);
    places.push_back(predictor.in_proportion ? predictor.from * std::pow(predictor.to / predictor.from, part)
                                             : predictor.from + part * (predictor.to - predictor.from));
  }
  return places;
}

/// To six digits, as a person would write it down.
double written(double value) {
  return read_number(fmt::format("{:.6g}", value)).value();
}

/// All pairs of places, or one after the other; the last column is the observed one.
DataTable places_table(const MadeFit& row) {
  DataTable table;
  for (const Predictor& predictor : row.predictors) table.columns.emplace_back(predictor.name);
  table.columns.push_back(split(row.model, '=').front());
  const std::vector<double> first = places_of(row.predictors.front());
  const std::vector<double> second =
      row.predictors.size() > 1 ? places_of(row.predictors.back()) : std::vector<double>{0};
  const auto columns = static_cast<Index>(table.columns.size());
  table.rows = Matrix::Zero(static_cast<Index>(first.size() * second.size()), columns);
  Index at = 0;
  for (const double x : first) {
    for (const double y : second) {
      table.rows(at, 0) = written(x);
      if (columns > 2) table.rows(at, 1) = written(y);
      ++at;
    }
  }
  return table;
}

/// The fit without the observations, which are zero.
ProblemDefinition definition_at(const MadeFit& row, std::shared_ptr<const DataTable> table) {
  ProblemDefinition definition{.name = row.name, .title = row.title};
  for (const Parameter& each : row.parameters) {
    const double reach = 0.5 * std::abs(each.truth);
    const double lower = written(std::min(each.near, each.truth - reach));
    const double upper = written(std::max(each.near, each.truth + reach));
    definition.variables.push_back({.name = each.name, .start = {each.near}, .region = std::pair{lower, upper}});
  }
  definition.fit = FitDefinition{
      .data = fmt::format("{}.csv", row.name), .equations = {{.model = row.model}}, .table = std::move(table)};
  return definition;
}

ProblemDefinition definition_of_row(const MadeFit& row) {
  constexpr std::uint64_t seed = 13;
  auto table = std::make_shared<DataTable>(places_table(row));
  const ProblemDefinition without = definition_at(row, table);
  const Tape model(fitted_models(without)[0]);
  Tape::Workspace work = model.workspace();
  RandomStream random(seed, {"data of a fit", row.name});
  const auto n = static_cast<Index>(row.parameters.size());
  Vector point(model.dimension());
  for (Index i = 0; i < n; ++i) point[i] = row.parameters[static_cast<std::size_t>(i)].truth;
  const Index observed = table->rows.cols() - 1;
  for (Index k = 0; k < table->rows.rows(); ++k) {
    point.tail(table->rows.cols()) = table->rows.row(k);
    table->rows(k, observed) = written(model.evaluate(point, work) + row.noise * random.normal());
  }
  return without; // its table is the one that has been filled
}

} // namespace

TestFunction test_function(const MadeFit& row) {
  TestFunction function;
  function.name = row.name;
  function.title = row.title;
  function.formula = row.model;
  function.source = row.source;
  function.traits = {Trait::smooth, Trait::fit};
  std::ranges::copy(row.more, std::back_inserter(function.traits));
  const auto n = static_cast<Index>(row.parameters.size());
  function.dimensions = Dimensions::exactly(n);
  function.fit = [row] { return definition_of_row(row); };
  function.options = {{.name = "far", .usual = 0, .least = 0, .meaning = "1: the start that is far"}};
  function.far_start.resize(n);
  for (Index i = 0; i < n; ++i) function.far_start[i] = row.parameters[static_cast<std::size_t>(i)].far;
  function.minima = [name = function.name](Index) {
    const CertifiedFit* certified = certified_fit(name);
    return certified == nullptr ? std::vector<KnownMinimum>()
                                : std::vector<KnownMinimum>{{certified->parameters, certified->sum, true}};
  };
  return function;
}

} // namespace tanzen::testbed::fits
