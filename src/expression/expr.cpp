#include "tanzen/expression/expr.hpp"

#include "tanzen/base/errors.hpp"

#include "scalar_rules.hpp"

#include <cassert>
#include <fmt/format.h>

namespace tanzen {
namespace {

Graph* common_graph(const Expr& a, const Expr& b, const Expr& c) {
  Graph* graph = nullptr;
  for (const Expr* operand : {&a, &b, &c}) {
    if (operand->graph() == nullptr) continue;
    assert(graph == nullptr || graph == operand->graph());
    graph = operand->graph();
  }
  return graph;
}

} // namespace

Expr apply(Operation operation, const Expr& a, const Expr& b, const Expr& c) {
  Graph* graph = common_graph(a, b, c);
  if (graph == nullptr) {
    return rules::visit(operation, [&]<Operation known>() {
      return Expr(rules::value_of<known>(a.constant(), b.constant(), c.constant(), 0));
    });
  }
  const int operands = operand_count(operation);
  const NodeId second = operands > 1 ? b.node_in(*graph) : 0;
  const NodeId third = operands > 2 ? c.node_in(*graph) : 0;
  return {*graph, graph->apply(operation, a.node_in(*graph), second, third)};
}

Expr& Expr::operator+=(const Expr& other) {
  return *this = *this + other;
}
Expr& Expr::operator-=(const Expr& other) {
  return *this = *this - other;
}
Expr& Expr::operator*=(const Expr& other) {
  return *this = *this * other;
}
Expr& Expr::operator/=(const Expr& other) {
  return *this = *this / other;
}

Expr operator-(const Expr& a) {
  return apply(Operation::negate, a);
}
Expr operator+(const Expr& a, const Expr& b) {
  return apply(Operation::add, a, b);
}
Expr operator-(const Expr& a, const Expr& b) {
  return apply(Operation::subtract, a, b);
}
Expr operator*(const Expr& a, const Expr& b) {
  return apply(Operation::multiply, a, b);
}
Expr operator/(const Expr& a, const Expr& b) {
  return apply(Operation::divide, a, b);
}

Condition operator<(const Expr& a, const Expr& b) {
  return Condition(apply(Operation::less, a, b));
}
Condition operator<=(const Expr& a, const Expr& b) {
  return Condition(apply(Operation::less_equal, a, b));
}
Condition operator>(const Expr& a, const Expr& b) {
  return b < a;
}
Condition operator>=(const Expr& a, const Expr& b) {
  return b <= a;
}
Condition operator==(const Expr& a, const Expr& b) {
  return Condition(apply(Operation::equal, a, b));
}
Condition operator!=(const Expr& a, const Expr& b) {
  return !(a == b);
}
Condition operator!(const Condition& condition) {
  return Condition(1 - condition.indicator());
}

Expr choose(const Condition& condition, const Expr& held, const Expr& otherwise) {
  return apply(Operation::select, condition.indicator(), held, otherwise);
}

Expr abs(const Expr& x) {
  return apply(Operation::absolute, x);
}
Expr sign(const Expr& x) {
  return apply(Operation::sign, x);
}
Expr floor(const Expr& x) {
  return apply(Operation::floor, x);
}
Expr ceil(const Expr& x) {
  return apply(Operation::ceil, x);
}
Expr round(const Expr& x) {
  return apply(Operation::round, x);
}
Expr sqrt(const Expr& x) {
  return apply(Operation::square_root, x);
}
Expr cbrt(const Expr& x) {
  return apply(Operation::cube_root, x);
}
Expr exp(const Expr& x) {
  return apply(Operation::exp, x);
}
Expr log(const Expr& x) {
  return apply(Operation::log, x);
}
Expr log2(const Expr& x) {
  return apply(Operation::log2, x);
}
Expr log10(const Expr& x) {
  return apply(Operation::log10, x);
}
Expr sin(const Expr& x) {
  return apply(Operation::sin, x);
}
Expr cos(const Expr& x) {
  return apply(Operation::cos, x);
}
Expr tan(const Expr& x) {
  return apply(Operation::tan, x);
}
Expr asin(const Expr& x) {
  return apply(Operation::asin, x);
}
Expr acos(const Expr& x) {
  return apply(Operation::acos, x);
}
Expr atan(const Expr& x) {
  return apply(Operation::atan, x);
}
Expr sinh(const Expr& x) {
  return apply(Operation::sinh, x);
}
Expr cosh(const Expr& x) {
  return apply(Operation::cosh, x);
}
Expr tanh(const Expr& x) {
  return apply(Operation::tanh, x);
}
Expr pow(const Expr& base, const Expr& exponent) {
  return apply(Operation::power, base, exponent);
}
Expr atan2(const Expr& y, const Expr& x) {
  return apply(Operation::atan2, y, x);
}
Expr min(const Expr& x, const Expr& y) {
  return apply(Operation::minimum, x, y);
}
Expr max(const Expr& x, const Expr& y) {
  return apply(Operation::maximum, x, y);
}
Expr hypot(const Expr& x, const Expr& y) {
  return apply(Operation::hypot, x, y);
}

TracedPoint::TracedPoint(Graph& graph) {
  coordinates_.reserve(graph.variables());
  for (std::size_t i = 0; i < graph.variables(); ++i) coordinates_.emplace_back(graph, graph.variable(i));
}

const Expr& TracedPoint::operator[](Index i) const {
  if (i < 0 || i >= size()) {
    throw ProblemError(
        fmt::format("the function reads x[{}], but it has {} variables, x[0] to x[{}]", i, size(), size() - 1));
  }
  return coordinates_[static_cast<std::size_t>(i)];
}

} // namespace tanzen
