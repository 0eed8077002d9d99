#include "tanzen/problem/problem.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace tanzen {

struct Problem::Content {
  std::string name = "unnamed";
  std::string title;
  std::string source;
  std::string formula;
  Sense sense = Sense::minimize;
  std::vector<FunctionPointer> objectives;
  std::shared_ptr<const VectorFunction> residuals;
  std::shared_ptr<const Expression> expression;
  std::vector<Variable> variables;
  Bounds bounds{0};
  std::optional<Box> region;
  std::optional<Vector> start;
  std::vector<KnownMinimum> minima;
  std::optional<double> best_known;
  std::vector<Constraint> constraints;
};

namespace {

constexpr double default_region = 5;

void check_order(const Vector& lower, const Vector& upper, const std::vector<Variable>& variables,
                 std::string_view what) {
  for (Index i = 0; i < lower.size(); ++i) {
    const std::string& name = variables[static_cast<std::size_t>(i)].name;
    if (std::isnan(lower[i]) || std::isnan(upper[i])) {
      throw ProblemError(fmt::format("a side of the {} of {} is not a number", what, name));
    }
    if (lower[i] > upper[i]) {
      throw ProblemError(fmt::format("the {} of {} are the wrong way round: lower {} is above upper {}", what, name,
                                     number_text(lower[i]), number_text(upper[i])));
    }
  }
}

} // namespace

template <class Change>
Problem Problem::changed(Change&& change) const {
  auto copy = std::make_shared<Content>(*content_);
  change(*copy);
  return Problem(std::move(copy));
}

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

Problem Problem::from_objective(FunctionPointer objective) {
  auto content = std::make_shared<Content>();
  const Index n = objective->dimension();
  content->objectives.push_back(std::move(objective));
  content->bounds = Bounds(n);
  for (Index i = 1; i <= n; ++i) content->variables.push_back({n == 1 ? "x" : fmt::format("x{}", i), ""});
  return Problem(std::move(content));
}

Problem Problem::from_expression(const Expression& expression) {
  (void)checked_dimension(expression.dimension());
  return from_objective(make_function(expression)).changed([&](Content& content) {
    content.expression = std::make_shared<Expression>(expression);
  });
}

Problem Problem::from_residual_nodes(Graph& graph, const std::vector<Expr>& residuals) {
  std::vector<NodeId> nodes;
  Expr sum;
  for (const Expr& residual : residuals) {
    sum += pow(residual, 2);
    nodes.push_back(residual.node_in(graph));
  }
  const NodeId root = sum.node_in(graph);
  const Problem problem = from_expression(Expression(std::make_shared<Graph>(graph), root));
  return problem.changed([&](Content& content) { content.residuals = std::make_shared<VectorFunction>(graph, nodes); });
}

Problem Problem::with_objective(FunctionPointer objective) const {
  return changed([&](Content& content) { content.objectives.push_back(std::move(objective)); });
}

Problem Problem::with_constraint(Constraint constraint) const {
  return changed([&](Content& content) { content.constraints.push_back(std::move(constraint)); });
}

Problem Problem::defined_by(std::string text) const {
  return changed([&](Content& content) { content.formula = std::move(text); });
}

Problem Problem::noisy(const Noise& noise) const {
  return changed([&](Content& content) {
    content.objectives.front() = make_noisy(content.objectives.front(), noise);
    content.residuals.reset();
    content.expression.reset();
  });
}

Problem Problem::observed(EvaluationListener listener) const {
  return changed([&](Content& content) {
    content.objectives.front() = make_observed(content.objectives.front(), std::move(listener));
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
    named.push_back({name, ""});
  }
  Problem problem = from_expression(formula.expression(scope)).variables(std::move(named)).named(clipped(text));
  return problem.changed([&](Content& content) { content.formula = text; });
}

Problem Problem::black_box(Index dimension, std::function<double(const Vector&)> function, Calls calls) {
  return from_objective(make_opaque_function(checked_dimension(dimension), std::move(function), calls));
}

Problem Problem::named(std::string name) const {
  return changed([&](Content& content) { content.name = std::move(name); });
}

Problem Problem::titled(std::string title) const {
  return changed([&](Content& content) { content.title = std::move(title); });
}

Problem Problem::sourced(std::string source) const {
  return changed([&](Content& content) { content.source = std::move(source); });
}

Problem Problem::variables(std::vector<Variable> variables) const {
  if (static_cast<Index>(variables.size()) != dimension()) {
    throw ProblemError(fmt::format("{} given for {}", counted(static_cast<long long>(variables.size()), "name"),
                                   counted(dimension(), "variable")));
  }
  return changed([&](Content& content) { content.variables = std::move(variables); });
}

Problem Problem::region(const Coordinates& lower, const Coordinates& upper) const {
  Box box{checked_length(lower, "the lower side of the region"), checked_length(upper, "the upper side of the region")};
  check_order(box.lower, box.upper, variables(), "region limits");
  if (!box.lower.allFinite() || !box.upper.allFinite()) throw ProblemError("a region must be finite on every side");
  return changed([&](Content& content) { content.region = std::move(box); });
}

Problem Problem::bounds(const Coordinates& lower, const Coordinates& upper) const {
  Box box{checked_length(lower, "the lower bound"), checked_length(upper, "the upper bound")};
  check_order(box.lower, box.upper, variables(), "bounds");
  return changed([&](Content& content) { content.bounds = Bounds(std::move(box)); });
}

Problem Problem::start(const Coordinates& point) const {
  Vector start = checked_length(point, "the start");
  return changed([&](Content& content) { content.start = std::move(start); });
}

Problem Problem::minimized() const {
  return changed([](Content& content) { content.sense = Sense::minimize; });
}

Problem Problem::maximized() const {
  return changed([](Content& content) { content.sense = Sense::maximize; });
}

Problem Problem::known_minimum(const Coordinates& point, double value, bool global) const {
  KnownMinimum minimum{checked_length(point, "a known minimum"), value, global};
  return changed([&](Content& content) { content.minima.push_back(std::move(minimum)); });
}

Problem Problem::best_known(double value) const {
  return changed([&](Content& content) { content.best_known = value; });
}

const std::string& Problem::name() const {
  return content_->name;
}
const std::string& Problem::title() const {
  return content_->title;
}
const std::string& Problem::source() const {
  return content_->source;
}
const std::string& Problem::formula() const {
  return content_->formula;
}
const std::shared_ptr<const VectorFunction>& Problem::residuals() const {
  return content_->residuals;
}
const std::shared_ptr<const Expression>& Problem::expression() const {
  return content_->expression;
}
Index Problem::dimension() const {
  return content_->objectives.front()->dimension();
}
Sense Problem::sense() const {
  return content_->sense;
}
const std::vector<Variable>& Problem::variables() const {
  return content_->variables;
}
const Bounds& Problem::bounds() const {
  return content_->bounds;
}
const std::optional<Vector>& Problem::start() const {
  return content_->start;
}
const std::vector<KnownMinimum>& Problem::known_minima() const {
  return content_->minima;
}
const std::vector<Constraint>& Problem::constraints() const {
  return content_->constraints;
}
const std::vector<FunctionPointer>& Problem::objectives() const {
  return content_->objectives;
}

std::vector<std::string> Problem::variable_names() const {
  std::vector<std::string> names;
  for (const Variable& variable : variables()) names.push_back(variable.name);
  return names;
}

Box Problem::region() const {
  if (content_->region) return *content_->region;
  Box box = bounds().box();
  for (Index i = 0; i < dimension(); ++i) {
    double& lower = box.lower[i];
    double& upper = box.upper[i];
    if (!std::isfinite(lower)) lower = std::isfinite(upper) ? upper - 2 * default_region : -default_region;
    if (!std::isfinite(upper)) upper = std::isfinite(bounds().lower()[i]) ? lower + 2 * default_region : default_region;
  }
  return box;
}

Box Problem::sampling_box() const {
  Box box = region();
  bounds().project(box.lower);
  bounds().project(box.upper);
  return box;
}

bool Problem::has_region() const {
  return content_->region || (bounds().lower().allFinite() && bounds().upper().allFinite());
}

std::optional<double> Problem::best_known() const {
  std::optional<double> best = content_->best_known;
  for (const KnownMinimum& minimum : known_minima()) {
    if (minimum.global && (!best || sign() * minimum.value < sign() * *best)) best = minimum.value;
  }
  return best;
}

double Problem::value(const Coordinates& point) const {
  return objective().worker()->value(checked_length(point, "the point"));
}

Vector Problem::gradient(const Coordinates& point) const {
  Vector gradient(dimension());
  objective().worker()->gradient(checked_length(point, "the point"), gradient);
  return gradient;
}

Matrix Problem::hessian(const Coordinates& point) const {
  Matrix hessian(dimension(), dimension());
  objective().worker()->hessian(checked_length(point, "the point"), hessian);
  return hessian;
}

void Problem::check_start(const Vector& point) const {
  (void)checked_length(point, "the start");
  for (Index i = 0; i < dimension(); ++i) {
    const std::string& variable = variables()[static_cast<std::size_t>(i)].name;
    if (!std::isfinite(point[i])) throw ProblemError(fmt::format("the start has {} = {}", variable, point[i]));
    if (point[i] < bounds().lower()[i] || point[i] > bounds().upper()[i]) {
      throw ProblemError(fmt::format("the start lies outside the bounds: {} = {} is not within {} and {}", variable,
                                     number_text(point[i]), number_text(bounds().lower()[i]),
                                     number_text(bounds().upper()[i])));
    }
  }
}

std::string point_text(const Vector& point, int digits, Index most) {
  std::vector<std::string> shown;
  for (Index i = 0; i < std::min(point.size(), most); ++i) {
    // -0 and what is zero beside the rest read better as 0
    shown.push_back(short_number(point[i] == 0 ? 0 : point[i], digits));
  }
  if (point.size() > most) shown.push_back(fmt::format("... {} in all", point.size()));
  return fmt::format("({})", joined(shown, ", "));
}

} // namespace tanzen
