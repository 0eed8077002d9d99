#pragma once

#include "tanzen/expression/expression.hpp"
#include "tanzen/problem/bounds.hpp"
#include "tanzen/problem/data_table.hpp"
#include "tanzen/problem/function.hpp"
#include "tanzen/problem/noise.hpp"
#include "tanzen/problem/observed.hpp"
#include "tanzen/problem/scalarization.hpp"

#include <cmath>
#include <concepts>
#include <cstddef>
#include <cstdint>
#include <fmt/core.h>
#include <functional>
#include <iosfwd>
#include <limits>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tanzen {

struct ProblemDefinition;
struct Transform;

/// Whether small or large values are wanted. Inside, everything minimizes; what a user reads is in their sense.
enum class Sense { minimize, maximize };

/// 1 where small values are wanted, -1 where large ones: what turns values to minimize into the user's and back.
[[nodiscard]] constexpr double sign_of(Sense sense) {
  return sense == Sense::minimize ? 1 : -1;
}

/// A coordinate as a user knows it.
struct Variable {
  std::string name = {};
  std::string unit = {};            ///< empty where there is none
  std::optional<double> scale = {}; ///< its typical size; unset: known from bounds or start, otherwise 1
};

/// A minimum (in the problem's sense: a best value) that the literature or its user knows.
struct KnownMinimum {
  Vector point = {};
  double value = 0; ///< in the problem's sense
  bool global = true;
};

/// One of the things that are wanted small or large.
struct Objective {
  std::string name = "value";
  Sense sense = Sense::minimize;
  std::string text = {}; ///< as it was written; empty where it was not
};

/// The true front of several objectives, each turned so that it is to be minimized.
struct KnownFront {
  Vector ideal = {};       ///< the least value of each objective on the front
  Vector nadir = {};       ///< the largest
  std::string stated = {}; ///< how it is known: a formula, or what it was computed from
  /// Points of it, at least two and about so many, spread over all of it; a column a point. Of two objectives those
  /// that are asked for by thousands lie so dense that the area under them is the front's to five digits.
  std::function<Matrix(Index count)> points = {};
  /// Whether some point of it is at least as low in every objective. Empty where there are two: then the points tell.
  std::function<bool(const Vector& objectives)> covers = {};
};

/// A limit besides the bounds: one row lower <= c(x) <= upper; an equality has both alike.
struct Constraint {
  std::string name = {};
  double lower = -std::numeric_limits<double>::infinity();
  double upper = std::numeric_limits<double>::infinity();
  std::string text = {}; ///< as it was written; empty where it was not

  [[nodiscard]] bool is_equality() const { return lower == upper; }
  /// How far a value lies outside: above 0 beyond the upper limit, below 0 beyond the lower one, 0 inside; NaN where
  /// there is no value.
  [[nodiscard]] double outside(double value) const {
    return value < lower ? value - lower : value > upper ? value - upper : value - value;
  }
  /// By how much a value breaks it; 0 inside, NaN where there is no value.
  [[nodiscard]] double violation(double value) const { return std::abs(outside(value)); }
};

/// What is to be minimized or maximized, over which variables, within which limits, and what is known of it: a bundle
/// of functions of the same variables (objectives, constraints, residuals), and how they become one number.
///
/// An immutable value, cheap to copy and safe to share between threads: what looks like a change returns a
/// changed copy. Every change throws ProblemError with its reason where it cannot be.
class Problem {
 public:
  /// A generic callable of a vector `x` (counted from zero), called once with unknown numbers: value, exact
  /// gradient and Hessian come from what it did with them.
  template <class Function>
  [[nodiscard]] static Problem from_function(Index dimension, Function&& function) {
    return from_expression(Expression::traced(checked_dimension(dimension), function));
  }
  [[nodiscard]] static Problem from_expression(const Expression& expression);
  /// A sum of squares of what a generic callable returns: a std::vector<Expr>. The residuals stay known to methods
  /// for least squares.
  template <class Function>
  [[nodiscard]] static Problem from_residuals(Index dimension, Function&& function) {
    auto graph = std::make_shared<Graph>(static_cast<std::size_t>(checked_dimension(dimension)));
    return from_residual_nodes(graph, function(static_cast<const TracedPoint&>(TracedPoint(*graph))));
  }
  /// A sum of squares over the rows of a table: `rows` are one row's residuals, of the parameters and then the columns.
  [[nodiscard]] static Problem from_rows(const Expressions& rows, std::shared_ptr<const DataTable> table);
  /// A sum over the rows of a table of what a generic callable returns for one: `term(x, row)`, both counted from zero.
  /// The sum stays known to methods that take the gradients of some rows at a time.
  template <class Term>
  [[nodiscard]] static Problem from_sum(Index dimension, std::shared_ptr<const DataTable> table, Term&& term) {
    const Index columns = columns_of(table);
    auto graph = std::make_shared<Graph>(static_cast<std::size_t>(checked_dimension(dimension) + columns));
    const TracedPoint all(*graph);
    std::vector<Expr> x, row;
    for (Index i = 0; i < dimension; ++i) x.push_back(all[i]);
    for (Index i = 0; i < columns; ++i) row.push_back(all[dimension + i]);
    const Expr one = term(TracedPoint(std::move(x)), TracedPoint(std::move(row)));
    const NodeId root = one.node_in(*graph);
    return from_terms(Expression(std::move(graph), root), std::move(table));
  }
  /// The same of an expression of the variables and then the columns.
  [[nodiscard]] static Problem from_terms(const Expression& term, std::shared_ptr<const DataTable> table);
  /// A formula of its own names, in natural order (x2 before x10), or of those given: `{"y", "x"}`, `{"x[10]"}`.
  /// `parameters` are names with a fixed value. Throws TextError, which points at the place.
  [[nodiscard]] static Problem from_formula(std::string_view formula, const std::vector<std::string>& variables = {},
                                            const std::map<std::string, double>& parameters = {});
  /// A callable that is only called. Gradients come from differences, which cost evaluations. It is called by one
  /// thread at a time unless `calls` says that it may be called by several at once.
  [[nodiscard]] static Problem black_box(Index dimension, std::function<double(const Vector&)> function,
                                         Calls calls = Calls::one_at_a_time);
  /// A callable with derivatives by hand, which `check_derivatives` compares with differences. They fill what they are
  /// handed, sized already; a Hessian that is left out has none.
  [[nodiscard]] static Problem with_derivatives(Index dimension, std::function<double(const Vector& x)> value,
                                                std::function<void(const Vector& x, Vector& gradient)> gradient,
                                                std::function<void(const Vector& x, Matrix& hessian)> hessian = {},
                                                Calls calls = Calls::one_at_a_time);
  /// Any objective of one's own; its first output where it has several.
  [[nodiscard]] static Problem from_objective(FunctionPointer objective);
  /// Everything at once: outputs are the objectives (none only where there are residuals, whose squares are then
  /// summed), the constraints, the residuals. Throws ProblemError where their number is another one.
  [[nodiscard]] static Problem from_bundle(FunctionPointer bundle, std::vector<Objective> objectives,
                                           std::vector<Constraint> constraints = {}, Index residuals = 0);

  [[nodiscard]] Problem named(std::string name) const;
  [[nodiscard]] Problem titled(std::string title) const;
  /// Where its definition is from: author, year, place.
  [[nodiscard]] Problem sourced(std::string source) const;
  /// What makes it easy or hard, in words for grouping: `convex`, `valley`.
  [[nodiscard]] Problem with_traits(std::vector<std::string> traits) const;
  /// One name for each variable, and units and scales where there are any.
  [[nodiscard]] Problem variables(std::vector<Variable> variables) const;
  /// The box where starts are drawn and pictures are taken; finite. It restricts nothing.
  [[nodiscard]] Problem region(const Coordinates& lower, const Coordinates& upper) const;
  /// The same for all variables alike.
  [[nodiscard]] Problem region(double lower, double upper) const {
    return region(Vector::Constant(dimension(), lower), Vector::Constant(dimension(), upper));
  }
  /// Hard limits; infinite where there is none.
  [[nodiscard]] Problem bounds(const Coordinates& lower, const Coordinates& upper) const;
  /// The same for all variables alike.
  [[nodiscard]] Problem bounds(double lower, double upper) const {
    return bounds(Vector::Constant(dimension(), lower), Vector::Constant(dimension(), upper));
  }
  [[nodiscard]] Problem start(const Coordinates& point) const;
  /// With one more constraint, written any way round with variables on both sides: `2*x <= y`, `0.2 <= x*y <= 0.8`,
  /// `x = y^2`. Throws TextError, or InputError for what is no relation.
  [[nodiscard]] Problem with_constraint(std::string name, std::string_view relation) const;
  /// The same of several at once, each by its `name` and `text`; long lists take one pass so.
  [[nodiscard]] Problem with_constraints(std::vector<Constraint> relations) const;
  /// With rows for the outputs of a function of the same variables.
  [[nodiscard]] Problem with_constraints(std::vector<Constraint> rows, FunctionPointer function) const;
  /// With rows for what a generic callable returns: a std::vector<Expr>.
  template <class Function>
  [[nodiscard]] Problem with_constraints(std::vector<Constraint> rows, Function&& function) const
      requires(std::invocable<Function, const TracedPoint&>) {
    const Expressions none(std::make_shared<Graph>(static_cast<std::size_t>(dimension())), {});
    return with_constraints(std::move(rows), none.with(function));
  }
  [[nodiscard]] Problem with_constraints(std::vector<Constraint> rows, const Expressions& expressions) const;
  /// With the first objective called, and wanted, otherwise.
  [[nodiscard]] Problem with_first_objective(Objective objective) const;
  /// With one more objective, a formula of the variables, or functions, after those there are.
  [[nodiscard]] Problem with_objective(const Objective& objective) const;
  [[nodiscard]] Problem with_objectives(std::vector<Objective> objectives, const Expressions& expressions) const;
  [[nodiscard]] Problem with_objectives(std::vector<Objective> objectives, FunctionPointer function) const;
  /// How the residuals count, and by what each is multiplied before (empty: by 1). Throws ProblemError without any.
  [[nodiscard]] Problem with_loss(const Loss& loss, const Coordinates& weights = {}) const;
  /// With noise on its values, and no derivatives; `exact` is the problem without it.
  [[nodiscard]] Problem noisy(const Noise& noise) const;
  /// With other noise of the same kinds; itself where it has none.
  [[nodiscard]] Problem with_noise_seed(std::uint64_t seed) const;
  /// With a listener that is told every evaluation; for looking at what a method does.
  [[nodiscard]] Problem observed(EvaluationListener listener) const;
  [[nodiscard]] Problem minimized() const;
  [[nodiscard]] Problem maximized() const;
  [[nodiscard]] Problem known_minimum(const Coordinates& point, double value, bool global = true) const;
  /// The best value, where no point of it is known.
  [[nodiscard]] Problem best_known(double value) const;
  /// With the true front of its objectives. Throws ProblemError where their number is another one.
  [[nodiscard]] Problem known_front(KnownFront front) const;
  /// What it was built from.
  [[nodiscard]] Problem defined_by(ProblemDefinition definition) const;

  [[nodiscard]] const std::string& name() const;
  [[nodiscard]] const std::string& title() const;
  [[nodiscard]] const std::string& source() const;
  [[nodiscard]] const std::vector<std::string>& traits() const;
  /// The text of its objective; empty where it was not made from one.
  [[nodiscard]] const std::string& formula() const;
  /// What it was built from; null where it was not built from text. What was changed since is not in it.
  [[nodiscard]] const std::shared_ptr<const ProblemDefinition>& definition() const;
  [[nodiscard]] Index dimension() const;
  /// Of the first objective.
  [[nodiscard]] Sense sense() const;
  [[nodiscard]] double sign() const { return sign_of(sense()); }
  [[nodiscard]] const std::vector<Variable>& variables() const;
  [[nodiscard]] std::vector<std::string> variable_names() const;
  [[nodiscard]] const Bounds& bounds() const;
  /// The region given, or the bounds; where a variable has neither, 10 to both sides of the start (its own size, where
  /// that is more), of 0 without one.
  [[nodiscard]] Box region() const;
  /// The region as far as the bounds allow it: where starts and populations are drawn.
  [[nodiscard]] Box sampling_box() const;
  /// Whether `region` was given, or every variable has bounds on both sides.
  [[nodiscard]] bool has_region() const;
  [[nodiscard]] const std::optional<Vector>& start() const;
  /// The scale of a variable where it is given; otherwise the size of its start, half the width of its bounds or of the
  /// region given, the first of them that is there and not zero; otherwise 1.
  [[nodiscard]] double typical_size(Index variable) const;
  [[nodiscard]] Vector typical_sizes() const;
  [[nodiscard]] const std::vector<KnownMinimum>& known_minima() const;
  /// The best value known, in the problem's sense.
  [[nodiscard]] std::optional<double> best_known() const;
  /// The true front of several objectives; null where it is not known.
  [[nodiscard]] const std::shared_ptr<const KnownFront>& known_front() const;
  /// What a run's value is wanted to be: the problem's sense; of several objectives it is the share of the true front's
  /// volume that its front covers, or the volume where that is not known, and to be maximized.
  [[nodiscard]] Sense value_sense() const;
  /// The best that a run's value can be, as far as it is known: `best_known`, or 1, the whole front.
  [[nodiscard]] std::optional<double> best_value() const;

  /// How many of each part the bundle has.
  [[nodiscard]] const PartCounts& parts() const;
  [[nodiscard]] const std::vector<Objective>& objectives() const;
  [[nodiscard]] const std::vector<Constraint>& constraints() const;
  /// All parts as one function, in the user's senses: objectives, constraints, residuals.
  [[nodiscard]] const FunctionPointer& bundle() const;
  /// How they become the problem's one value.
  [[nodiscard]] const ScalarizationPointer& scalarization() const;
  /// The expressions of all parts; null where one of them is opaque, or a table's.
  [[nodiscard]] const std::shared_ptr<const Expressions>& expressions() const;
  /// The expression that the objective computes; null for an opaque function.
  [[nodiscard]] const std::shared_ptr<const Expression>& expression() const;
  /// The variables that its residuals are affine in, all together, as far as their form shows it: what
  /// `affine_coordinates` finds. None where the residuals are opaque.
  [[nodiscard]] std::vector<Index> linear_variables() const;
  /// The data of a fit; null where there are none.
  [[nodiscard]] const std::shared_ptr<const DataTable>& table() const;
  /// The one value in the user's sense, or the first objective: the short way, without the other parts.
  [[nodiscard]] const VectorFunction& objective() const;
  /// Without its noise.
  [[nodiscard]] Problem exact() const;
  /// Without listeners: for a look at a point that is no part of a run.
  [[nodiscard]] Problem unheard() const;
  [[nodiscard]] bool is_noisy() const { return !noise().empty(); }
  [[nodiscard]] const std::vector<Noise>& noise() const;

  /// One value in the problem's sense. It makes a worker for every call; keep one from `objective()` for many.
  [[nodiscard]] double value(const Coordinates& point) const;
  /// The exact gradient, likewise; throws ProblemError where there is none.
  [[nodiscard]] Vector gradient(const Coordinates& point) const;
  /// The exact Hessian, likewise.
  [[nodiscard]] Matrix hessian(const Coordinates& point) const;
  /// The constraints' values, likewise.
  [[nodiscard]] Vector constraint_values(const Coordinates& point) const;
  /// The largest violation of the constraints' rows and the bounds, likewise; 0 where it is feasible.
  [[nodiscard]] double violation(const Coordinates& point) const;

  /// Throws ProblemError unless `point` has the right length, is finite and lies within the bounds.
  void check_start(const Vector& point) const;

 private:
  struct Content;
  friend Problem transformed(const Problem& problem, const Transform& transform);

  explicit Problem(std::shared_ptr<const Content> content) : content_(std::move(content)) {}
  [[nodiscard]] static Problem from_residual_nodes(const std::shared_ptr<Graph>& graph,
                                                   const std::vector<Expr>& residuals);
  [[nodiscard]] static Index checked_dimension(Index dimension);
  [[nodiscard]] static Index columns_of(const std::shared_ptr<const DataTable>& table);
  [[nodiscard]] Vector checked_length(const Coordinates& coordinates, std::string_view what) const;
  [[nodiscard]] Problem with_parts(std::vector<Objective> objectives, std::vector<Constraint> rows,
                                   const std::optional<Expressions>& expressions, FunctionPointer function) const;
  template <class Change>
  [[nodiscard]] Problem changed(Change&& change) const;

  std::shared_ptr<const Content> content_;
};

/// The largest violation over the rows; NaN where a value is missing.
[[nodiscard]] double violation_of(const std::vector<Constraint>& rows, VectorView values);

/// `(0.5, 2)`; long points are cut after `most` coordinates.
[[nodiscard]] std::string point_text(const Vector& point, int digits = 6, Index most = 8);

/// Its name, size and sense: `rosenbrock, 2 variables, minimize`.
[[nodiscard]] std::string to_text(const Problem& problem);
std::ostream& operator<<(std::ostream& out, const Problem& problem);

} // namespace tanzen

template <>
struct fmt::formatter<tanzen::Problem> : fmt::formatter<std::string_view> {
  template <class Context>
  auto format(const tanzen::Problem& problem, Context& context) const {
    return fmt::formatter<std::string_view>::format(tanzen::to_text(problem), context);
  }
};
