#include "tanzen/problem/definition.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/block_tape.hpp"
#include "tanzen/expression/formula.hpp"
#include "tanzen/numeric/constants.hpp"

#include "relation.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <set>

namespace tanzen {
namespace {

/// Runs a part; an error in it tells which part it was.
template <class Part>
auto named_part(const std::string& what, Part&& part) {
  try {
    return part();
  } catch (const InputError& error) {
    throw InputError(fmt::format("in {}: {}", what, error.what()));
  }
}

void check_names(const ProblemDefinition& definition) {
  std::set<std::string> taken;
  const auto take = [&](const std::string& name) {
    if (const auto why = why_no_name(name)) throw InputError(*why);
    if (!taken.insert(name).second) throw InputError(fmt::format("the name '{}' is given twice", name));
  };
  for (const auto& variable : definition.variables) take(variable.name);
  for (const auto& [name, value] : definition.parameters) take(name);
  for (const auto& term : definition.terms) take(term.name);
  std::set<std::string> rows;
  for (const auto& constraint : definition.constraints) {
    if (constraint.name.empty() || !rows.insert(constraint.name).second)
      throw InputError(fmt::format("the constraint '{}' is there twice, or has no name", constraint.name));
  }
  // `x = { count = 2 }` has an x1.
  std::set<std::string> coordinates;
  for (const auto& variable : definition.variables) {
    for (Index i = 1; i <= variable.count.value_or(0); ++i) {
      const std::string element = fmt::format("{}{}", variable.name, i);
      if (taken.contains(element))
        throw InputError(
            fmt::format("'{}' is an element of the vector {} and has a line of its own", element, variable.name));
      coordinates.insert(element);
    }
  }
  taken.merge(coordinates);
  if (!definition.fit || !definition.fit->table) return;
  for (const std::string& column : definition.fit->table->columns) take(column);
}

FormulaScope scope_of(const ProblemDefinition& definition) {
  FormulaScope scope{.parameters = definition.parameters};
  for (const auto& variable : definition.variables) scope.variables.push_back({variable.name, variable.count});
  for (const auto& term : definition.terms) {
    scope.terms.emplace(term.name,
                        named_part(fmt::format("the term '{}'", term.name), [&] { return Formula::parse(term.text); }));
  }
  return scope;
}

/// The names of the parameters, and then of the table's columns.
FormulaScope scope_of_row(const FitDefinition& fit, FormulaScope scope) {
  if (fit.table == nullptr || fit.table->rows.rows() == 0) throw InputError("the fit has no data");
  for (const std::string& column : fit.table->columns) scope.variables.push_back({column, {}});
  return scope;
}

/// Left and right of a model.
std::pair<Formula, Formula> sides_of(const FitEquation& equation) {
  const auto sides = split(equation.model, '=');
  if (sides.size() != 2)
    throw TextError("a model is an equation: write column = formula of columns and parameters", equation.model, 0);
  return {Formula::parse(sides[0]), Formula::parse(sides[1])};
}

/// What a fit's row comes to, one an equation, of the parameters and then the table's columns.
Expressions row_residuals(const FitDefinition& fit, const FormulaScope& parameters) {
  const FormulaScope scope = scope_of_row(fit, parameters);
  if (fit.equations.empty())
    throw InputError("a fit has a model, as in celsius = room + 900*exp(-rate*minutes), or a residual");
  auto graph = std::make_shared<Graph>(scope.coordinate_names().size());
  std::vector<NodeId> roots;
  for (const FitEquation& equation : fit.equations) {
    if (equation.residual.empty() == equation.model.empty())
      throw InputError(
          "a fit has a model, as in celsius = room + 900*exp(-rate*minutes), or a residual: one of the two");
    Expr residual;
    if (!equation.residual.empty()) {
      residual = Formula::parse(equation.residual).build(*graph, scope);
    } else {
      const auto [left, right] = sides_of(equation);
      residual = left.build(*graph, scope) - right.build(*graph, scope);
    }
    roots.push_back(residual.node_in(*graph));
  }
  return {std::move(graph), std::move(roots), scope.coordinate_names()};
}

/// A formula of the columns at each row.
Vector column_values(const std::string& text, const FitDefinition& fit, std::string_view what) {
  FormulaScope scope;
  for (const std::string& column : fit.table->columns) scope.variables.push_back({column, {}});
  const BlockTape tape(named_part(fmt::format("the {}", what), [&] { return Formula::parse(text).expression(scope); }));
  BlockTape::Workspace work = tape.workspace();
  Vector values;
  tape.evaluate(fit.table->rows.transpose(), work, values);
  return values;
}

/// What the residuals of an equation are multiplied by, row by row; empty where by 1.
Vector row_weights(const FitEquation& equation, const FitDefinition& fit) {
  if (!equation.errors.empty() && !equation.weights.empty())
    throw InputError("an equation of a fit has errors or weights, not both");
  const bool has_errors = !equation.errors.empty();
  if (!has_errors && equation.weights.empty()) return {};
  const std::string& text = has_errors ? equation.errors : equation.weights;
  const Vector values = column_values(text, fit, has_errors ? "errors" : "weights");
  for (Index row = 0; row < values.size(); ++row) {
    const bool is_right = std::isfinite(values[row]) && (has_errors ? values[row] > 0 : values[row] >= 0);
    if (!is_right)
      throw InputError(
          fmt::format("the {} '{}' of the fit must be {}, and {} in row {}", has_errors ? "errors" : "weights",
                      clipped(text, 40), has_errors ? "above 0" : "at least 0",
                      std::isnan(values[row]) ? "are no number" : "are " + number_text(values[row]), row + 1));
  }
  return has_errors ? Vector(values.cwiseInverse()) : Vector(values.cwiseSqrt());
}

/// Of all equations, in the order of the residuals; empty where all are 1.
Vector weights_of(const FitDefinition& fit) {
  const auto each = static_cast<Index>(fit.equations.size());
  Vector weights;
  for (Index k = 0; k < each; ++k) {
    const Vector own = row_weights(fit.equations[static_cast<std::size_t>(k)], fit);
    if (own.size() == 0) continue;
    if (weights.size() == 0) weights.setOnes(each * own.size());
    weights(Eigen::seqN(k, own.size(), each)) = own;
  }
  return weights;
}

Problem fitted_problem(const FitDefinition& fit, const FormulaScope& scope) {
  return named_part("the fit", [&] {
    const Problem problem = Problem::from_rows(row_residuals(fit, scope), fit.table);
    const Vector weights = weights_of(fit);
    return fit.loss == Loss() && weights.size() == 0 ? problem : problem.with_loss(fit.loss, weights);
  });
}

Problem program_problem(const ProblemDefinition& definition, Index n, const ProgramMaker& make_program) {
  if (!make_program) throw InputError("the objective is another program, which cannot be started here");
  std::vector<Constraint> rows;
  for (const NamedFormula& constraint : definition.constraints) {
    Constraint row =
        named_part(fmt::format("the constraint '{}'", constraint.name), [&] { return parse_limits(constraint.text); });
    row.name = constraint.name;
    rows.push_back(std::move(row));
  }
  const PartCounts parts{static_cast<Index>(definition.objectives.size()), static_cast<Index>(rows.size()),
                         definition.program->residuals};
  return Problem::from_bundle(make_program(n, parts, *definition.program), definition.objectives, std::move(rows),
                              parts.residuals);
}

/// Objectives and constraints on one graph.
Problem formula_problem(const ProblemDefinition& definition, const FormulaScope& scope) {
  if (definition.objectives.empty())
    throw InputError("there is no objective: write minimize = \"...\" or maximize = \"...\"");
  const auto one = [&](const Objective& objective) {
    return named_part("the objective", [&] { return Formula::parse(objective.text).expression(scope); });
  };
  Problem problem = Problem::from_expression(one(definition.objectives.front()));
  problem = problem.with_first_objective(definition.objectives.front());
  for (std::size_t k = 1; k < definition.objectives.size(); ++k)
    problem = problem.with_objectives({definition.objectives[k]}, one(definition.objectives[k]));
  return problem;
}

Problem with_relations(Problem problem, const ProblemDefinition& definition, const FormulaScope& scope) {
  if (definition.constraints.empty() || definition.program) return problem;
  std::vector<Constraint> rows;
  auto graph = std::make_shared<Graph>(static_cast<std::size_t>(problem.dimension()));
  std::vector<NodeId> values;
  for (const NamedFormula& constraint : definition.constraints) {
    ParsedRelation parsed = named_part(fmt::format("the constraint '{}'", constraint.name),
                                       [&] { return parse_relation(constraint.text, scope, *graph); });
    parsed.row.name = constraint.name;
    rows.push_back(std::move(parsed.row));
    values.push_back(parsed.value);
  }
  return problem.with_constraints(std::move(rows), Expressions(std::move(graph), std::move(values)));
}

Problem with_objective(const ProblemDefinition& definition, const FormulaScope& scope,
                       const ProgramMaker& make_program) {
  if (definition.program && (definition.fit || std::ranges::any_of(definition.objectives, [](const Objective& each) {
                               return !each.text.empty();
                             })))
    throw InputError("there is a program and a formula too: only one of them can be the objective");
  if (definition.program)
    return program_problem(definition, static_cast<Index>(scope.coordinate_names().size()), make_program);
  return definition.fit ? fitted_problem(*definition.fit, scope) : formula_problem(definition, scope);
}

/// One coordinate after another, a vector's elements each.
struct Coordinate {
  const VariableDefinition* variable;
  Index element;
};

std::vector<Coordinate> coordinates_of(const ProblemDefinition& definition) {
  std::vector<Coordinate> coordinates;
  for (const auto& variable : definition.variables) {
    for (Index i = 0; i < variable.count.value_or(1); ++i) coordinates.push_back({&variable, i});
  }
  return coordinates;
}

double start_of(const Coordinate& coordinate) {
  const auto& start = coordinate.variable->start;
  const auto count = static_cast<std::size_t>(coordinate.variable->count.value_or(1));
  if (start.size() != 1 && start.size() != count) {
    throw InputError(fmt::format("the start of {} has {}, but {} has {}", coordinate.variable->name,
                                 counted(static_cast<long long>(start.size()), "number"), coordinate.variable->name,
                                 counted(static_cast<long long>(count), "element")));
  }
  return start.size() == 1 ? start.front() : start[static_cast<std::size_t>(coordinate.element)];
}

/// The region, where a variable gives one; the others as in `rest`.
std::optional<Box> region_of(const std::vector<Coordinate>& coordinates, Box rest) {
  bool any = false;
  for (std::size_t i = 0; i < coordinates.size(); ++i) {
    const auto& region = coordinates[i].variable->region;
    if (!region) continue;
    any = true;
    rest.lower[static_cast<Index>(i)] = region->first;
    rest.upper[static_cast<Index>(i)] = region->second;
  }
  if (!any) return std::nullopt;
  return rest;
}

} // namespace

namespace {

/// What a definition says of its coordinates.
struct CoordinateNumbers {
  std::vector<Variable> variables;
  Vector lower, upper, start;
  std::size_t starts = 0;
};

CoordinateNumbers numbers_of(const std::vector<Coordinate>& coordinates, const std::vector<std::string>& names) {
  const auto n = static_cast<Index>(coordinates.size());
  CoordinateNumbers numbers{{}, Vector(n), Vector(n), Vector(n)};
  for (Index i = 0; i < n; ++i) {
    const auto& [variable, element] = coordinates[static_cast<std::size_t>(i)];
    numbers.variables.push_back({names[static_cast<std::size_t>(i)], variable->unit, variable->scale});
    numbers.lower[i] = variable->lower.value_or(-infinity);
    numbers.upper[i] = variable->upper.value_or(infinity);
    if (variable->start.empty()) continue;
    ++numbers.starts;
    numbers.start[i] = start_of({variable, element});
  }
  if (numbers.starts != 0 && numbers.starts != coordinates.size())
    throw InputError("some variables have a start and some have none: give one to each, or to none");
  return numbers;
}

} // namespace

Expressions fitted_models(const ProblemDefinition& definition) {
  const bool has_models =
      definition.fit && !definition.fit->equations.empty() &&
      std::ranges::none_of(definition.fit->equations, [](const FitEquation& each) { return each.model.empty(); });
  if (!has_models)
    throw InputError("only a fit with a model, as in celsius = room + 900*exp(-rate*minutes), predicts anything");
  const FormulaScope scope = scope_of_row(*definition.fit, scope_of(definition));
  auto graph = std::make_shared<Graph>(scope.coordinate_names().size());
  std::vector<NodeId> roots;
  for (const FitEquation& equation : definition.fit->equations)
    roots.push_back(sides_of(equation).second.build(*graph, scope).node_in(*graph));
  return {std::move(graph), std::move(roots), scope.coordinate_names()};
}

std::vector<std::optional<Index>> observed_columns(const FitDefinition& fit) {
  std::vector<std::optional<Index>> observed;
  for (const FitEquation& equation : fit.equations) {
    const auto& columns = fit.table->columns;
    const auto found = std::ranges::find(columns, split(equation.model, '=').front());
    observed.push_back(found == columns.end() ? std::nullopt : std::optional<Index>(found - columns.begin()));
  }
  return observed;
}

double observation_error(const FitDefinition& fit, Index equation, const Vector& columns) {
  const FitEquation& own = fit.equations[static_cast<std::size_t>(equation)];
  if (own.errors.empty() && own.weights.empty()) return 1;
  DataTable one{.columns = fit.table->columns, .rows = columns.transpose()};
  const FitDefinition at{.data = {}, .table = std::make_shared<DataTable>(std::move(one))};
  const double value = column_values(own.errors.empty() ? own.weights : own.errors, at, "errors")[0];
  const double error = own.errors.empty() ? 1 / std::sqrt(value) : value;
  return error > 0 && std::isfinite(error) ? error : std::numeric_limits<double>::quiet_NaN();
}

std::vector<Index> predictor_columns(const ProblemDefinition& definition) {
  const Expressions models = fitted_models(definition);
  const Graph& graph = models.graph();
  const auto columns = static_cast<Index>(definition.fit->table->columns.size());
  std::vector<bool> needed(graph.size(), false);
  for (const NodeId root : models.roots()) needed[root] = true;
  std::set<Index> used;
  for (NodeId id = static_cast<NodeId>(graph.size()); id-- > 0;) {
    if (!needed[id]) continue;
    const Node& node = graph.node(id);
    if (node.operation == Operation::variable) used.insert(static_cast<Index>(node.variable()));
    const NodeId operands[] = {node.a, node.b, node.c};
    for (int k = 0; k < operand_count(node.operation); ++k) needed[operands[k]] = true;
  }
  std::vector<Index> predictors;
  for (const Index variable : used)
    if (const Index column = variable - (models.dimension() - columns); column >= 0) predictors.push_back(column);
  return predictors;
}

bool is_program(const Problem& problem) {
  return problem.definition() && problem.definition()->program.has_value();
}

Problem build_problem(const ProblemDefinition& definition, const ProgramMaker& make_program) {
  check_names(definition);
  if (definition.variables.empty()) throw InputError("there are no variables: write them under [variables]");
  const FormulaScope scope = scope_of(definition);
  const auto coordinates = coordinates_of(definition);
  CoordinateNumbers numbers = numbers_of(coordinates, scope.coordinate_names());
  Problem problem = with_relations(with_objective(definition, scope, make_program), definition, scope)
                        .variables(std::move(numbers.variables))
                        .named(definition.name)
                        .titled(definition.title)
                        .bounds(numbers.lower, numbers.upper);
  if (numbers.starts != 0) problem = problem.start(numbers.start);
  if (const auto region = region_of(coordinates, problem.region()))
    problem = problem.region(region->lower, region->upper);
  for (const auto& minimum : definition.minima)
    problem = problem.known_minimum(minimum.point, minimum.value, minimum.global);
  return problem.defined_by(definition);
}

} // namespace tanzen
