#include "tanzen/problem/definition.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

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
  if (!definition.fit) return;
  for (const std::string& column : definition.fit->columns) take(column);
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

/// `left >= right` taken apart at its one comparison outside parentheses.
struct SplitRelation {
  std::string left, relation, right;
};

SplitRelation split_relation(const std::string& text) {
  int depth = 0;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '(' || text[i] == '[') ++depth;
    if (text[i] == ')' || text[i] == ']') --depth;
    if (depth != 0 || (text[i] != '<' && text[i] != '>' && text[i] != '=')) continue;
    const bool is_double = i + 1 < text.size() && text[i + 1] == '=';
    return {text.substr(0, i), std::string(1, text[i]), text.substr(i + (is_double ? 2 : 1))};
  }
  throw TextError("a constraint compares two values: write left <= right, left >= right or left = right", text,
                  text.size());
}

Constraint build_constraint(const NamedFormula& constraint, const FormulaScope& scope) {
  const SplitRelation parts = split_relation(constraint.text);
  const auto names = scope.coordinate_names();
  auto graph = std::make_shared<Graph>(names.size());
  const Expr left = Formula::parse(parts.left).build(*graph, scope),
             right = Formula::parse(parts.right).build(*graph, scope);
  const Expr excess = parts.relation == ">" ? right - left : left - right;
  const NodeId root = excess.node_in(*graph);
  const auto kind = parts.relation == "=" ? ConstraintKind::equality : ConstraintKind::at_most_zero;
  return {constraint.name, constraint.text, kind, make_function(Expression(graph, root, names))};
}

/// The residuals of a fit, one for each row: the columns are numbers there.
std::vector<Expr> fit_residuals(const FitDefinition& fit, const FormulaScope& scope, const TracedPoint& point) {
  const Formula formula = Formula::parse(fit.residual);
  std::vector<Expr> residuals;
  for (const auto& row : fit.rows) {
    FormulaScope here = scope;
    for (std::size_t k = 0; k < row.size(); ++k) here.parameters[fit.columns[k]] = row[k];
    residuals.push_back(formula.build(point, here));
  }
  return residuals;
}

Problem with_objective(const ProblemDefinition& definition, const FormulaScope& scope,
                       const ProgramMaker& make_program) {
  const auto n = static_cast<Index>(scope.coordinate_names().size());
  if (definition.program) {
    if (definition.fit || !definition.objectives.empty())
      throw InputError("there is a program and a formula too: only one of them can be the objective");
    if (!make_program) throw InputError("the objective is another program, which cannot be started here");
    return Problem::from_objective(make_program(n, *definition.program));
  }
  if (definition.fit) {
    if (definition.fit->rows.empty()) throw InputError("the fit has no data");
    return named_part("the fit's residual", [&] {
      return Problem::from_residuals(n, [&](const TracedPoint& x) { return fit_residuals(*definition.fit, scope, x); });
    });
  }
  if (definition.objectives.empty())
    throw InputError("there is no objective: write minimize = \"...\" or maximize = \"...\"");
  std::vector<Expression> expressions;
  for (const std::string& text : definition.objectives) {
    expressions.push_back(named_part("the objective", [&] { return Formula::parse(text).expression(scope); }));
  }
  Problem problem = Problem::from_expression(expressions.front());
  for (std::size_t k = 1; k < expressions.size(); ++k) problem = problem.with_objective(make_function(expressions[k]));
  return problem;
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

Problem build_problem(const ProblemDefinition& definition, const ProgramMaker& make_program) {
  check_names(definition);
  if (definition.variables.empty()) throw InputError("there are no variables: write them under [variables]");
  const FormulaScope scope = scope_of(definition);
  const auto coordinates = coordinates_of(definition);
  const auto n = static_cast<Index>(coordinates.size());
  constexpr double infinity = std::numeric_limits<double>::infinity();
  Vector lower(n), upper(n), start(n);
  bool all_start = true, any_start = false;
  std::vector<Variable> variables;
  const auto names = scope.coordinate_names();
  for (Index i = 0; i < n; ++i) {
    const auto& [variable, element] = coordinates[static_cast<std::size_t>(i)];
    variables.push_back({names[static_cast<std::size_t>(i)], variable->unit});
    lower[i] = variable->lower.value_or(-infinity);
    upper[i] = variable->upper.value_or(infinity);
    all_start = all_start && !variable->start.empty();
    any_start = any_start || !variable->start.empty();
    if (!variable->start.empty()) start[i] = start_of({variable, element});
  }
  Problem problem = with_objective(definition, scope, make_program)
                        .variables(std::move(variables))
                        .named(definition.name)
                        .titled(definition.title)
                        .bounds(lower, upper);
  if (const auto region = region_of(coordinates, problem.region()))
    problem = problem.region(region->lower, region->upper);
  if (definition.sense == Sense::maximize) problem = problem.maximized();
  if (any_start && !all_start)
    throw InputError("some variables have a start and some have none: give one to each, or to none");
  if (any_start) {
    problem.check_start(start);
    problem = problem.start(start);
  }
  for (const auto& minimum : definition.minima)
    problem = problem.known_minimum(minimum.point, minimum.value, minimum.global);
  for (const auto& constraint : definition.constraints) {
    problem = problem.with_constraint(named_part(fmt::format("the constraint '{}'", constraint.name),
                                                 [&] { return build_constraint(constraint, scope); }));
  }
  const std::string shown = definition.fit ? definition.fit->residual
                            : definition.program
                                ? fmt::format("the program {}", joined(definition.program->command, " "))
                                : joined(definition.objectives, ";  ");
  return problem.defined_by(shown);
}

} // namespace tanzen
