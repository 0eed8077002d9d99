#include "problem_content.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/affine.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <ostream>

namespace tanzen {
namespace {

constexpr double usual_reach = 10;

/// The sum of the squares, built in the order in which a loop would add them.
Expression sum_of_squares(const Expressions& residuals, Index first) {
  auto graph = std::make_shared<Graph>(residuals.graph());
  Expr sum;
  for (Index k = first; k < residuals.size(); ++k)
    sum += pow(Expr(*graph, residuals.roots()[static_cast<std::size_t>(k)]), 2);
  const NodeId root = sum.node_in(*graph);
  return {std::move(graph), root};
}

} // namespace

void Problem::Content::assemble() {
  counts = parts();
  for (const Objective& objective : objectives) check_readable(objective.name, "the objective");
  const bool is_fit = objectives.empty();
  scalarization = is_fit ? std::make_shared<LossSum>(loss, weights) : plain_objective();
  functions.expression.reset();
  functions.objective = functions.bundle;
  if (counts.is_plain()) {
    if (functions.expressions) functions.expression = std::make_shared<Expression>((*functions.expressions)[0]);
    return;
  }
  const bool is_plain_sum = is_fit && loss.kind == Loss::Kind::squares && weights.size() == 0;
  if (functions.expressions && (is_plain_sum || !is_fit)) {
    functions.expression = std::make_shared<Expression>(
        is_fit ? sum_of_squares(*functions.expressions, counts.constraints) : (*functions.expressions)[0]);
    functions.objective = make_function(*functions.expression);
  } else if (is_fit) {
    functions.objective = scalarized(functions.bundle, counts, scalarization);
  }
}

void Problem::Content::add_noise(const Noise& each) {
  const bool is_one = functions.bundle == functions.objective;
  functions.bundle = make_noisy(functions.bundle, each);
  functions.objective = is_one ? functions.bundle : make_noisy(functions.objective, each);
  functions.expression.reset();
  functions.expressions.reset();
  rows.reset();
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
const std::vector<std::string>& Problem::traits() const {
  return content_->traits;
}
const std::string& Problem::formula() const {
  static const std::string none;
  return content_->objectives.empty() ? none : content_->objectives.front().text;
}
const std::shared_ptr<const ProblemDefinition>& Problem::definition() const {
  return content_->definition;
}
const std::shared_ptr<const Expression>& Problem::expression() const {
  return content_->functions.expression;
}
const std::shared_ptr<const Expressions>& Problem::expressions() const {
  return content_->functions.expressions;
}
const std::shared_ptr<const DataTable>& Problem::table() const {
  return content_->table;
}
std::vector<Index> Problem::linear_variables() const {
  if (content_->rows) return affine_coordinates(*content_->rows, dimension());
  const auto& all = expressions();
  if (all == nullptr || parts().residuals == 0) return {};
  const auto first = static_cast<std::ptrdiff_t>(all->roots().size()) - parts().residuals;
  const Expressions residuals(all->shared_graph(), {all->roots().begin() + first, all->roots().end()});
  return affine_coordinates(residuals, dimension());
}
Index Problem::dimension() const {
  return content_->functions.bundle->dimension();
}
Sense Problem::sense() const {
  return content_->objectives.empty() ? Sense::minimize : content_->objectives.front().sense;
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
const PartCounts& Problem::parts() const {
  return content_->counts;
}
const std::vector<Objective>& Problem::objectives() const {
  return content_->objectives;
}
const std::vector<Constraint>& Problem::constraints() const {
  return content_->constraints;
}
const FunctionPointer& Problem::bundle() const {
  return content_->functions.bundle;
}
const ScalarizationPointer& Problem::scalarization() const {
  return content_->scalarization;
}
const VectorFunction& Problem::objective() const {
  return *content_->functions.objective;
}
const std::vector<Noise>& Problem::noise() const {
  return content_->noise;
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
    const bool has_lower = std::isfinite(lower), has_upper = std::isfinite(upper);
    const double middle = start() ? (*start())[i] : 0;
    const double reach = std::max(usual_reach, std::abs(middle));
    if (!has_lower) lower = has_upper ? std::min(middle, upper) - reach : middle - reach;
    if (!has_upper) upper = has_lower ? std::max(middle, lower) + reach : middle + reach;
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

double Problem::typical_size(Index variable) const {
  if (const auto& scale = variables()[static_cast<std::size_t>(variable)].scale) return *scale;
  if (const double size = start() ? std::abs((*start())[variable]) : 0; size > 0) return size;
  const double reach = 0.5 * (bounds().upper()[variable] - bounds().lower()[variable]);
  if (reach > 0 && std::isfinite(reach)) return reach;
  if (!content_->region) return 1;
  const double half = 0.5 * (content_->region->upper[variable] - content_->region->lower[variable]);
  return half > 0 ? half : 1;
}

Vector Problem::typical_sizes() const {
  Vector sizes(dimension());
  for (Index i = 0; i < dimension(); ++i) sizes[i] = typical_size(i);
  return sizes;
}

std::optional<double> Problem::best_known() const {
  std::optional<double> best = content_->best_known;
  for (const KnownMinimum& minimum : known_minima()) {
    if (minimum.global && (!best || sign() * minimum.value < sign() * *best)) best = minimum.value;
  }
  return best;
}

const std::shared_ptr<const KnownFront>& Problem::known_front() const {
  return content_->front;
}

Sense Problem::value_sense() const {
  return objectives().size() > 1 ? Sense::maximize : sense();
}

std::optional<double> Problem::best_value() const {
  if (objectives().size() < 2) return best_known();
  return known_front() ? std::optional(1.0) : std::nullopt;
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
  objective().worker()->weighted_hessian(checked_length(point, "the point"), Vector::Ones(1), hessian);
  return hessian;
}

Vector Problem::constraint_values(const Coordinates& point) const {
  Vector outputs;
  bundle()->worker()->outputs(checked_length(point, "the point"), outputs);
  return Evaluation(outputs, parts()).constraints();
}

double Problem::violation(const Coordinates& point) const {
  const double outside = bounds().violation(point.vector());
  if (constraints().empty()) return outside;
  const Vector values = constraint_values(point);
  const double broken = violation_of(constraints(), {values.data(), values.size()});
  return std::isnan(broken) ? broken : std::max(outside, broken);
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

double violation_of(const std::vector<Constraint>& rows, VectorView values) {
  double worst = 0;
  for (std::size_t k = 0; k < rows.size(); ++k) {
    const double violation = rows[k].violation(values[static_cast<Index>(k)]);
    if (std::isnan(violation)) return violation;
    worst = std::max(worst, violation);
  }
  return worst;
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

std::string to_text(const Problem& problem) {
  const std::size_t objectives = problem.objectives().size();
  const std::string wanted = objectives > 1                       ? fmt::format("{} objectives", objectives)
                             : problem.sense() == Sense::minimize ? "minimize"
                                                                  : "maximize";
  return fmt::format("{}, {}, {}", problem.name(), counted(problem.dimension(), "variable"), wanted);
}

std::ostream& operator<<(std::ostream& out, const Problem& problem) {
  return out << to_text(problem);
}

} // namespace tanzen
