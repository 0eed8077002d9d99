#include "tanzen/problem/problem.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/formula.hpp"
#include "tanzen/problem/definition.hpp"

#include "problem_content.hpp"
#include "relation.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>
#include <utility>

namespace tanzen {
namespace {

void check_row(const Constraint& row) {
  check_readable(row.name, "the constraint");
  if (std::isnan(row.lower) || std::isnan(row.upper))
    throw ProblemError(fmt::format("a limit of the constraint {} is not a number", row.name));
  if (row.lower > row.upper)
    throw ProblemError(
        fmt::format("the limits of the constraint {} are the wrong way round: lower {} is above upper {}", row.name,
                    number_text(row.lower), number_text(row.upper)));
}

void check_count(std::size_t objectives) {
  constexpr std::size_t most = 20;
  if (objectives > most)
    throw ProblemError(fmt::format("a problem has at most {} objectives, not {}", most, objectives));
}

std::vector<Variable> numbered_variables(Index n) {
  std::vector<Variable> variables;
  for (Index i = 1; i <= n; ++i) variables.push_back({.name = n == 1 ? std::string("x") : fmt::format("x{}", i)});
  return variables;
}

} // namespace

Index Problem::checked_dimension(Index dimension) {
  if (dimension < 1) throw ProblemError(fmt::format("a problem needs at least 1 variable, not {}", dimension));
  return dimension;
}

Vector Problem::checked_length(const Coordinates& coordinates, std::string_view what) const {
  const Vector& values = coordinates.vector();
  if (values.size() != dimension()) {
    throw ProblemError(fmt::format("{} has {}, but {} has {}", what, counted(values.size(), "coordinate"), name(),
                                   counted(dimension(), "variable")));
  }
  return values;
}

Problem Problem::from_bundle(FunctionPointer bundle, std::vector<Objective> objectives,
                             std::vector<Constraint> constraints, Index residuals) {
  if (bundle == nullptr) throw ProblemError("the function of a problem is missing");
  auto content = std::make_shared<Content>();
  const Index n = checked_dimension(bundle->dimension());
  std::ranges::for_each(constraints, check_row);
  check_count(objectives.size());
  content->objectives = std::move(objectives);
  content->constraints = std::move(constraints);
  content->residuals = residuals;
  if (content->parts().all() != bundle->outputs())
    throw ProblemError(fmt::format("the function has {}, but the problem {}", counted(bundle->outputs(), "value"),
                                   counted(content->parts().all(), "part")));
  if (content->objectives.empty() == (residuals == 0))
    throw ProblemError("a problem has objectives, or residuals whose squares are summed");
  content->functions.bundle = std::move(bundle);
  content->bounds = Bounds(n);
  content->variables = numbered_variables(n);
  content->assemble();
  return Problem(std::move(content));
}

Problem Problem::from_objective(FunctionPointer objective) {
  if (objective == nullptr) throw ProblemError("the function of a problem is missing");
  if (objective->outputs() != 1)
    throw ProblemError(
        fmt::format("an objective is one value, not {}: say what they are with from_bundle", objective->outputs()));
  return from_bundle(std::move(objective), {Objective()});
}

Problem Problem::from_expression(const Expression& expression) {
  (void)checked_dimension(expression.dimension());
  const Expressions all = expression;
  return from_objective(make_function(all)).changed([&](Content& content) {
    content.functions.expressions = std::make_shared<Expressions>(all);
    content.functions.expression = std::make_shared<Expression>(expression);
  });
}

Problem Problem::from_residual_nodes(const std::shared_ptr<Graph>& graph, const std::vector<Expr>& residuals) {
  // The sum stands in the same graph as what it squares, which is there once however long it is.
  std::vector<NodeId> nodes;
  Expr sum;
  for (const Expr& residual : residuals) {
    sum += pow(residual, 2);
    nodes.push_back(residual.node_in(*graph));
  }
  const NodeId root = sum.node_in(*graph);
  const Expressions all(graph, std::move(nodes));
  return from_bundle(make_function(all), {}, {}, all.size()).changed([&](Content& content) {
    content.functions.expressions = std::make_shared<Expressions>(all);
    content.functions.expression = std::make_shared<Expression>(graph, root);
    content.functions.objective = make_function(*content.functions.expression);
  });
}

Problem Problem::from_rows(const Expressions& rows, std::shared_ptr<const DataTable> table) {
  if (table == nullptr || table->rows.rows() == 0) throw InputError("the fit has no data");
  if (rows.dimension() <= table->rows.cols()) throw ProblemError("a fit needs at least one parameter");
  const Index residuals = table->rows.rows() * rows.size();
  return from_bundle(make_row_function(rows, table), {}, {}, residuals).changed([&](Content& content) {
    content.table = std::move(table);
    content.rows = std::make_shared<Expressions>(rows);
  });
}

Index Problem::columns_of(const std::shared_ptr<const DataTable>& table) {
  if (table == nullptr || table->rows.rows() == 0) throw InputError("the sum has no data");
  return table->rows.cols();
}

Problem Problem::from_terms(const Expression& term, std::shared_ptr<const DataTable> table) {
  if (term.dimension() <= columns_of(table)) throw ProblemError("a sum over data needs at least one variable");
  const PartCounts terms{.objectives = 0, .residuals = table->rows.rows()};
  auto rows = make_row_function(Expressions(term), table);
  return from_objective(scalarized(std::move(rows), terms, std::make_shared<TermSum>())).changed([&](Content& content) {
    content.table = std::move(table);
  });
}

Problem Problem::with_parts(std::vector<Objective> objectives, std::vector<Constraint> rows,
                            const std::optional<Expressions>& expressions, FunctionPointer function) const {
  std::ranges::for_each(rows, check_row);
  if (function == nullptr) throw ProblemError("a part of a problem is no function");
  if (function->dimension() != dimension())
    throw ProblemError(fmt::format("a part of {} works on {}, and the problem has {}", name(),
                                   counted(function->dimension(), "variable"), dimension()));
  if (function->outputs() != static_cast<Index>(objectives.size() + rows.size()))
    throw ProblemError(fmt::format("{} for {}", counted(function->outputs(), "value"),
                                   counted(static_cast<long long>(objectives.size() + rows.size()), "row")));
  if (!noise().empty()) throw ProblemError("give a problem all its parts before its noise");
  check_count(this->objectives().size() + objectives.size());
  return changed([&](Content& content) {
    const PartCounts before = content.parts();
    const Index at = before.objectives + (rows.empty() ? 0 : before.constraints);
    if (expressions && content.functions.expressions) {
      content.functions.expressions =
          std::make_shared<Expressions>(content.functions.expressions->inserted(at, *expressions));
      content.functions.bundle = make_function(*content.functions.expressions);
    } else {
      content.functions.expressions.reset();
      if (at != 0 && at != before.all())
        throw ProblemError("of functions that are only called, give the objectives before the constraints");
      content.functions.bundle = at == 0 ? stacked({std::move(function), content.functions.bundle})
                                         : stacked({content.functions.bundle, std::move(function)});
    }
    content.objectives.insert(content.objectives.end(), objectives.begin(), objectives.end());
    content.constraints.insert(content.constraints.end(), rows.begin(), rows.end());
    content.front.reset(); // it was another problem's
    content.assemble();
  });
}

Problem Problem::with_constraint(std::string name, std::string_view relation) const {
  return with_constraints({Constraint{.name = std::move(name), .text = std::string(relation)}});
}

Problem Problem::with_constraints(std::vector<Constraint> relations) const {
  FormulaScope scope;
  for (const std::string& each : variable_names()) scope.variables.push_back({each, {}});
  auto graph = std::make_shared<Graph>(static_cast<std::size_t>(dimension()));
  std::vector<NodeId> values;
  for (Constraint& row : relations) {
    ParsedRelation parsed = parse_relation(row.text, scope, *graph);
    parsed.row.name = std::move(row.name);
    row = std::move(parsed.row);
    values.push_back(parsed.value);
  }
  return with_constraints(std::move(relations), Expressions(std::move(graph), std::move(values)));
}

Problem Problem::with_constraints(std::vector<Constraint> rows, FunctionPointer function) const {
  return with_parts({}, std::move(rows), std::nullopt, std::move(function));
}

Problem Problem::with_constraints(std::vector<Constraint> rows, const Expressions& expressions) const {
  return with_parts({}, std::move(rows), expressions, make_function(expressions));
}

Problem Problem::with_first_objective(Objective objective) const {
  if (objectives().empty()) throw ProblemError(fmt::format("{} is a fit: it has no objective to rename", name()));
  return changed([&](Content& content) {
    check_readable(objective.name, "the objective");
    content.set_sense(objective.sense);
    content.objectives.front() = std::move(objective);
  });
}

Problem Problem::with_objective(const Objective& objective) const {
  FormulaScope scope;
  for (const std::string& each : variable_names()) scope.variables.push_back({each, {}});
  return with_objectives({objective}, Formula::parse(objective.text).expression(scope));
}

Problem Problem::with_objectives(std::vector<Objective> objectives, const Expressions& expressions) const {
  return with_parts(std::move(objectives), {}, expressions, make_function(expressions));
}

Problem Problem::with_objectives(std::vector<Objective> objectives, FunctionPointer function) const {
  return with_parts(std::move(objectives), {}, std::nullopt, std::move(function));
}

Problem Problem::with_loss(const Loss& loss, const Coordinates& weights) const {
  if (parts().residuals == 0) throw ProblemError(fmt::format("a loss is of residuals, and {} has none", name()));
  const Vector& each = weights.vector();
  if (each.size() != 0 && each.size() != parts().residuals)
    throw ProblemError(
        fmt::format("{} for {}", counted(each.size(), "weight"), counted(parts().residuals, "residual")));
  if (!each.allFinite()) throw ProblemError("a weight of a residual is not a number");
  return changed([&](Content& content) {
    content.loss = loss;
    content.weights = each;
    content.assemble();
  });
}

Problem Problem::defined_by(ProblemDefinition definition) const {
  return changed(
      [&](Content& content) { content.definition = std::make_shared<const ProblemDefinition>(std::move(definition)); });
}

Problem Problem::noisy(const Noise& noise) const {
  return changed([&](Content& content) {
    if (content.noise.empty()) content.exact = content.functions;
    content.noise.push_back(noise);
    content.add_noise(noise);
  });
}

Problem Problem::with_noise_seed(std::uint64_t seed) const {
  if (noise().empty()) return *this;
  return changed([&](Content& content) {
    content.functions = content.exact;
    for (Noise& each : content.noise) {
      each.seed = seed;
      content.add_noise(each);
    }
  });
}

Problem Problem::exact() const {
  if (noise().empty()) return *this;
  return changed([&](Content& content) {
    content.functions = content.exact;
    content.noise.clear();
  });
}

Problem Problem::unheard() const {
  if (content_->unheard.bundle == nullptr) return *this;
  return changed([](Content& content) { content.functions = std::exchange(content.unheard, {}); });
}

Problem Problem::observed(EvaluationListener listener) const {
  return changed([&](Content& content) {
    if (content.unheard.bundle == nullptr) content.unheard = content.functions;
    const bool is_one = content.functions.bundle == content.functions.objective;
    content.functions.bundle = make_observed(content.functions.bundle, listener);
    content.functions.objective =
        is_one ? content.functions.bundle : make_observed(content.functions.objective, std::move(listener));
  });
}

Problem Problem::from_formula(std::string_view text, const std::vector<std::string>& variables,
                              const std::map<std::string, double>& parameters) {
  const Formula formula = Formula::parse(text);
  FormulaScope scope{.parameters = parameters};
  std::vector<std::string> known;
  for (const auto& [name, value] : parameters) {
    if (const auto why = why_no_name(name)) throw InputError(*why);
    known.push_back(name);
  }
  if (variables.empty()) scope.variables = formula.variables(known);
  for (const std::string& variable : variables) scope.variables.push_back(VariableName::parse(variable));

  std::set<std::string> seen;
  std::vector<Variable> named;
  for (const std::string& name : scope.coordinate_names()) {
    if (!seen.insert(name).second) throw InputError(fmt::format("the variable '{}' is named twice", name));
    if (parameters.contains(name)) throw InputError(fmt::format("'{}' is both a variable and fixed", name));
    named.push_back({.name = name});
  }
  Problem problem =
      from_expression(formula.expression(scope)).variables(std::move(named)).named(clipped(readable_line(text)));
  return problem.changed([&](Content& content) { content.objectives.front().text = text; });
}

} // namespace tanzen
