#pragma once

#include "tanzen/expression/graph.hpp"
#include "tanzen/numeric/vector.hpp"

#include <type_traits>
#include <utility>
#include <vector>

namespace tanzen {

class Condition;

/// A number that is known when the program is compiled or run.
template <class T>
concept PlainNumber = std::is_arithmetic_v<T>;

/// A number that is not known yet: what a function of traced variables computes with. It stands in a graph
/// that its variables brought along, or is a plain constant. Valid as long as that graph.
///
/// A comparison of two gives a Condition, which is no bool: what a function does may not hang on values that
/// do not exist when it is traced. Write `choose(x[0] < 0, a, b)` instead of `if`.
class Expr {
 public:
  Expr(double value = 0) : constant_(value) {}
  Expr(Graph& graph, NodeId id) : graph_(&graph), id_(id) {}

  explicit operator bool() const = delete; // not known when traced: choose(x[0] < 0, a, b), not if
  operator double() const = delete;        // not known when traced: pow, not std::pow; or Problem::black_box

  [[nodiscard]] Graph* graph() const { return graph_; }
  /// The node in `graph`; a plain constant is added to it.
  [[nodiscard]] NodeId node_in(Graph& graph) const { return graph_ == nullptr ? graph.constant(constant_) : id_; }
  /// Whether this is a number known already, and which.
  [[nodiscard]] bool is_constant() const { return graph_ == nullptr || graph_->node(id_).is_constant(); }
  [[nodiscard]] double constant() const { return graph_ == nullptr ? constant_ : graph_->node(id_).constant(); }

  Expr& operator+=(const Expr& other);
  Expr& operator-=(const Expr& other);
  Expr& operator*=(const Expr& other);
  Expr& operator/=(const Expr& other);

  friend Expr operator+(const Expr& a) { return a; }
  friend Expr operator-(const Expr& a);
  friend Expr operator+(const Expr& a, const Expr& b);
  friend Expr operator-(const Expr& a, const Expr& b);
  friend Expr operator*(const Expr& a, const Expr& b);
  friend Expr operator/(const Expr& a, const Expr& b);

  // With a number known already; as templates they need no conversion, which would stand against the one to double.
  friend Expr operator+(const Expr& a, PlainNumber auto b) { return a + Expr(static_cast<double>(b)); }
  friend Expr operator+(PlainNumber auto a, const Expr& b) { return Expr(static_cast<double>(a)) + b; }
  friend Expr operator-(const Expr& a, PlainNumber auto b) { return a - Expr(static_cast<double>(b)); }
  friend Expr operator-(PlainNumber auto a, const Expr& b) { return Expr(static_cast<double>(a)) - b; }
  friend Expr operator*(const Expr& a, PlainNumber auto b) { return a * Expr(static_cast<double>(b)); }
  friend Expr operator*(PlainNumber auto a, const Expr& b) { return Expr(static_cast<double>(a)) * b; }
  friend Expr operator/(const Expr& a, PlainNumber auto b) { return a / Expr(static_cast<double>(b)); }
  friend Expr operator/(PlainNumber auto a, const Expr& b) { return Expr(static_cast<double>(a)) / b; }

  friend Condition operator<(const Expr& a, const Expr& b);
  friend Condition operator<=(const Expr& a, const Expr& b);
  friend Condition operator>(const Expr& a, const Expr& b);
  friend Condition operator>=(const Expr& a, const Expr& b);
  friend Condition operator==(const Expr& a, const Expr& b);
  friend Condition operator!=(const Expr& a, const Expr& b);

 private:
  Graph* graph_ = nullptr;
  NodeId id_ = 0;
  double constant_ = 0;
};

/// Whether a comparison of unknown numbers holds, to be used by `choose`.
class Condition {
 public:
  explicit Condition(Expr indicator) : indicator_(indicator) {}
  explicit operator bool() const = delete;
  /// 1 where it holds, 0 where it does not.
  [[nodiscard]] const Expr& indicator() const { return indicator_; }
  friend Condition operator!(const Condition& condition);

 private:
  Expr indicator_;
};

[[nodiscard]] inline Condition operator<(const Expr& a, PlainNumber auto b) {
  return a < Expr(static_cast<double>(b));
}
[[nodiscard]] inline Condition operator<(PlainNumber auto a, const Expr& b) {
  return Expr(static_cast<double>(a)) < b;
}
[[nodiscard]] inline Condition operator<=(const Expr& a, PlainNumber auto b) {
  return a <= Expr(static_cast<double>(b));
}
[[nodiscard]] inline Condition operator<=(PlainNumber auto a, const Expr& b) {
  return Expr(static_cast<double>(a)) <= b;
}
[[nodiscard]] inline Condition operator>(const Expr& a, PlainNumber auto b) {
  return a > Expr(static_cast<double>(b));
}
[[nodiscard]] inline Condition operator>(PlainNumber auto a, const Expr& b) {
  return Expr(static_cast<double>(a)) > b;
}
[[nodiscard]] inline Condition operator>=(const Expr& a, PlainNumber auto b) {
  return a >= Expr(static_cast<double>(b));
}
[[nodiscard]] inline Condition operator>=(PlainNumber auto a, const Expr& b) {
  return Expr(static_cast<double>(a)) >= b;
}
[[nodiscard]] inline Condition operator==(const Expr& a, PlainNumber auto b) {
  return a == Expr(static_cast<double>(b));
}
[[nodiscard]] inline Condition operator!=(const Expr& a, PlainNumber auto b) {
  return a != Expr(static_cast<double>(b));
}

/// Any operation on expressions; those that a function needs have names of their own below.
[[nodiscard]] Expr apply(Operation operation, const Expr& a, const Expr& b = {}, const Expr& c = {});

/// `held` where the condition holds, `otherwise` where not. Both are computed; the derivative is that of the
/// one that counts.
[[nodiscard]] Expr choose(const Condition& condition, const Expr& held, const Expr& otherwise);

[[nodiscard]] Expr abs(const Expr& x);
[[nodiscard]] Expr sign(const Expr& x);
[[nodiscard]] Expr floor(const Expr& x);
[[nodiscard]] Expr ceil(const Expr& x);
/// To the nearest whole number, halves away from zero.
[[nodiscard]] Expr round(const Expr& x);
[[nodiscard]] Expr sqrt(const Expr& x);
[[nodiscard]] Expr cbrt(const Expr& x);
[[nodiscard]] Expr exp(const Expr& x);
[[nodiscard]] Expr log(const Expr& x);
[[nodiscard]] Expr log2(const Expr& x);
[[nodiscard]] Expr log10(const Expr& x);
[[nodiscard]] Expr sin(const Expr& x);
[[nodiscard]] Expr cos(const Expr& x);
[[nodiscard]] Expr tan(const Expr& x);
[[nodiscard]] Expr asin(const Expr& x);
[[nodiscard]] Expr acos(const Expr& x);
[[nodiscard]] Expr atan(const Expr& x);
[[nodiscard]] Expr sinh(const Expr& x);
[[nodiscard]] Expr cosh(const Expr& x);
[[nodiscard]] Expr tanh(const Expr& x);
[[nodiscard]] Expr pow(const Expr& base, const Expr& exponent);
[[nodiscard]] Expr atan2(const Expr& y, const Expr& x);
[[nodiscard]] Expr min(const Expr& x, const Expr& y);
[[nodiscard]] Expr max(const Expr& x, const Expr& y);
[[nodiscard]] Expr hypot(const Expr& x, const Expr& y);

// With a number known already, as of the operators.
[[nodiscard]] Expr pow(const Expr& a, PlainNumber auto b) {
  return pow(a, Expr(static_cast<double>(b)));
}
[[nodiscard]] Expr pow(PlainNumber auto a, const Expr& b) {
  return pow(Expr(static_cast<double>(a)), b);
}
[[nodiscard]] Expr atan2(const Expr& a, PlainNumber auto b) {
  return atan2(a, Expr(static_cast<double>(b)));
}
[[nodiscard]] Expr atan2(PlainNumber auto a, const Expr& b) {
  return atan2(Expr(static_cast<double>(a)), b);
}
[[nodiscard]] Expr min(const Expr& a, PlainNumber auto b) {
  return min(a, Expr(static_cast<double>(b)));
}
[[nodiscard]] Expr min(PlainNumber auto a, const Expr& b) {
  return min(Expr(static_cast<double>(a)), b);
}
[[nodiscard]] Expr max(const Expr& a, PlainNumber auto b) {
  return max(a, Expr(static_cast<double>(b)));
}
[[nodiscard]] Expr max(PlainNumber auto a, const Expr& b) {
  return max(Expr(static_cast<double>(a)), b);
}
[[nodiscard]] Expr hypot(const Expr& a, PlainNumber auto b) {
  return hypot(a, Expr(static_cast<double>(b)));
}
[[nodiscard]] Expr hypot(PlainNumber auto a, const Expr& b) {
  return hypot(Expr(static_cast<double>(a)), b);
}

/// What a function is traced with: a vector of unknown numbers, or of expressions of such.
class TracedPoint {
 public:
  /// The variables of a graph.
  explicit TracedPoint(Graph& graph);
  explicit TracedPoint(std::vector<Expr> coordinates) : coordinates_(std::move(coordinates)) {}

  [[nodiscard]] Index size() const { return static_cast<Index>(coordinates_.size()); }
  /// Counted from zero. Throws ProblemError where the function has no such variable.
  [[nodiscard]] const Expr& operator[](Index i) const;

 private:
  std::vector<Expr> coordinates_;
};

} // namespace tanzen
