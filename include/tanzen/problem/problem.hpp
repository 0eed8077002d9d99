#pragma once

#include "tanzen/expression/formula.hpp"
#include "tanzen/problem/bounds.hpp"
#include "tanzen/problem/function.hpp"
#include "tanzen/problem/noise.hpp"
#include "tanzen/problem/observed.hpp"

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace tanzen {

/// Whether small or large values are wanted. Inside, everything minimizes; what a user reads is in their sense.
enum class Sense { minimize, maximize };

/// A coordinate as a user knows it.
struct Variable {
  std::string name;
  std::string unit; ///< empty where there is none
};

/// A minimum (in the problem's sense: a best value) that the literature or its user knows.
struct KnownMinimum {
  Vector point;
  double value = 0; ///< in the problem's sense
  bool global = true;
};

/// Whether a constraint's function must be zero or must not be positive.
enum class ConstraintKind { equality, at_most_zero };

/// A limit besides the bounds. No method of this version handles one; they are kept and shown.
struct Constraint {
  std::string name;
  std::string text; ///< as it was written; empty where it was not
  ConstraintKind kind = ConstraintKind::at_most_zero;
  FunctionPointer function;
};

/// What is to be minimized or maximized, over which variables, within which limits, and what is known of it.
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
    Graph graph(static_cast<std::size_t>(checked_dimension(dimension)));
    return from_residual_nodes(graph, function(static_cast<const TracedPoint&>(TracedPoint(graph))));
  }
  /// A formula of its own names, in natural order (x2 before x10), or of those given: `{"y", "x"}`, `{"x[10]"}`.
  /// `parameters` are names with a fixed value. Throws TextError, which points at the place.
  [[nodiscard]] static Problem from_formula(std::string_view formula, const std::vector<std::string>& variables = {},
                                            const std::map<std::string, double>& parameters = {});
  /// A callable that is only called. Gradients come from differences, which cost evaluations. It is called by one
  /// thread at a time unless `calls` says that it may be called by several at once.
  [[nodiscard]] static Problem black_box(Index dimension, std::function<double(const Vector&)> function,
                                         Calls calls = Calls::one_at_a_time);
  /// Any objective of one's own.
  [[nodiscard]] static Problem from_objective(FunctionPointer objective);

  [[nodiscard]] Problem named(std::string name) const;
  [[nodiscard]] Problem titled(std::string title) const;
  /// Where its definition is from: author, year, place.
  [[nodiscard]] Problem sourced(std::string source) const;
  /// One name for each variable, and units where there are any.
  [[nodiscard]] Problem variables(std::vector<Variable> variables) const;
  /// The box where starts are drawn and pictures are taken; finite. It restricts nothing.
  [[nodiscard]] Problem region(const Coordinates& lower, const Coordinates& upper) const;
  /// Hard limits; infinite where there is none.
  [[nodiscard]] Problem bounds(const Coordinates& lower, const Coordinates& upper) const;
  [[nodiscard]] Problem start(const Coordinates& point) const;
  /// With one more objective, for problems with several.
  [[nodiscard]] Problem with_objective(FunctionPointer objective) const;
  [[nodiscard]] Problem with_constraint(Constraint constraint) const;
  /// What `formula` shows.
  [[nodiscard]] Problem defined_by(std::string text) const;
  /// With noise on the values of its objective, and no derivatives.
  [[nodiscard]] Problem noisy(const Noise& noise) const;
  /// With a listener that is told every value of its objective; for looking at what a method does.
  [[nodiscard]] Problem observed(EvaluationListener listener) const;
  [[nodiscard]] Problem minimized() const;
  [[nodiscard]] Problem maximized() const;
  [[nodiscard]] Problem known_minimum(const Coordinates& point, double value, bool global = true) const;
  /// The best value, where no point of it is known.
  [[nodiscard]] Problem best_known(double value) const;

  [[nodiscard]] const std::string& name() const;
  [[nodiscard]] const std::string& title() const;
  [[nodiscard]] const std::string& source() const;
  /// The text it was made from; empty where it was not made from one.
  [[nodiscard]] const std::string& formula() const;
  [[nodiscard]] Index dimension() const;
  [[nodiscard]] Sense sense() const;
  /// 1 where small values are wanted, -1 where large ones: what turns values to minimize into the user's and back.
  [[nodiscard]] double sign() const { return sense() == Sense::minimize ? 1 : -1; }
  [[nodiscard]] const std::vector<Variable>& variables() const;
  [[nodiscard]] std::vector<std::string> variable_names() const;
  [[nodiscard]] const Bounds& bounds() const;
  /// The region given, or the bounds, or -5 to 5 where a variable has neither.
  [[nodiscard]] Box region() const;
  /// The region as far as the bounds allow it: where starts and populations are drawn.
  [[nodiscard]] Box sampling_box() const;
  /// Whether `region` was given, or every variable has bounds on both sides.
  [[nodiscard]] bool has_region() const;
  [[nodiscard]] const std::optional<Vector>& start() const;
  [[nodiscard]] const std::vector<KnownMinimum>& known_minima() const;
  /// The best value known, in the problem's sense.
  [[nodiscard]] std::optional<double> best_known() const;
  [[nodiscard]] const std::vector<Constraint>& constraints() const;
  /// The objectives: one, but for problems with several.
  [[nodiscard]] const std::vector<FunctionPointer>& objectives() const;
  /// The expression that the objective computes; null for an opaque function.
  [[nodiscard]] const std::shared_ptr<const Expression>& expression() const;
  /// What the objective sums the squares of; null where it is no sum of squares.
  [[nodiscard]] const std::shared_ptr<const VectorFunction>& residuals() const;
  [[nodiscard]] const ScalarFunction& objective() const { return *objectives().front(); }

  /// One value in the problem's sense. It makes a worker for every call; keep one from `objective()` for many.
  [[nodiscard]] double value(const Coordinates& point) const;
  /// The exact gradient, likewise; throws ProblemError where there is none.
  [[nodiscard]] Vector gradient(const Coordinates& point) const;
  /// The exact Hessian, likewise.
  [[nodiscard]] Matrix hessian(const Coordinates& point) const;

  /// Throws ProblemError unless `point` has the right length, is finite and lies within the bounds.
  void check_start(const Vector& point) const;

 private:
  struct Content;

  explicit Problem(std::shared_ptr<const Content> content) : content_(std::move(content)) {}
  [[nodiscard]] static Problem from_residual_nodes(Graph& graph, const std::vector<Expr>& residuals);
  [[nodiscard]] static Index checked_dimension(Index dimension);
  [[nodiscard]] Vector checked_length(const Coordinates& coordinates, std::string_view what) const;
  template <class Change>
  [[nodiscard]] Problem changed(Change&& change) const;

  std::shared_ptr<const Content> content_;
};

/// `(3, 2)`; long points are cut after `most` coordinates.
[[nodiscard]] std::string point_text(const Vector& point, int digits = 6, Index most = 8);

} // namespace tanzen
