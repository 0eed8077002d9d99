#include "tanzen/problem/definition.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/affine.hpp"
#include "tanzen/expression/formula.hpp"

#include "relation.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
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

/// What a fit's row comes to, of the parameters and then the table's columns.
Expression row_residual(const FitDefinition& fit, FormulaScope scope) {
  if (fit.table == nullptr || fit.table->rows.rows() == 0) throw InputError("the fit has no data");
  if (fit.residual.empty() == fit.model.empty())
    throw InputError("a fit has a model, as in celsius = room + 900*exp(-rate*minutes), or a residual: one of the two");
  for (const std::string& column : fit.table->columns) scope.variables.push_back({column, {}});
  auto graph = std::make_shared<Graph>(scope.coordinate_names().size());
  Expr residual;
  if (!fit.residual.empty()) {
    residual = Formula::parse(fit.residual).build(*graph, scope);
  } else {
    const auto sides = split(fit.model, '=');
    if (sides.size() != 2)
      throw TextError("a model is an equation: write column = formula of columns and parameters", fit.model, 0);
    residual = Formula::parse(sides[0]).build(*graph, scope) - Formula::parse(sides[1]).build(*graph, scope);
  }
  const NodeId root = residual.node_in(*graph);
  return {std::move(graph), root, scope.coordinate_names()};
}

/// What each residual is divided by: a number, or a column of the table.
Vector weights_of(const FitDefinition& fit) {
  if (fit.errors.empty()) return {};
  const auto number = read_number(fit.errors);
  const Vector errors = number ? Vector(Vector::Constant(fit.table->rows.rows(), *number))
                               : Vector(fit.table->rows.col(fit.table->column(fit.errors)));
  if (!(errors.minCoeff() > 0)) throw InputError(fmt::format("the errors '{}' of the fit must be above 0", fit.errors));
  return errors.cwiseInverse();
}

Problem fitted_problem(const FitDefinition& fit, const FormulaScope& scope) {
  return named_part("the fit", [&] {
    const Problem problem = Problem::from_rows(row_residual(fit, scope), fit.table);
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
  constexpr double infinity = std::numeric_limits<double>::infinity();
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

Expression fitted_model(const ProblemDefinition& definition) {
  if (!definition.fit || definition.fit->model.empty())
    throw InputError("only a fit with a model, as in celsius = room + 900*exp(-rate*minutes), predicts anything");
  FormulaScope scope = scope_of(definition);
  for (const std::string& column : definition.fit->table->columns) scope.variables.push_back({column, {}});
  return Formula::parse(split(definition.fit->model, '=').back()).expression(scope);
}

std::vector<Index> linear_parameters(const ProblemDefinition& definition) {
  if (!definition.fit) throw InputError("only a fit has parameters that its residuals are linear in");
  const FormulaScope scope = scope_of(definition);
  return affine_coordinates(row_residual(*definition.fit, scope), static_cast<Index>(scope.coordinate_names().size()));
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
