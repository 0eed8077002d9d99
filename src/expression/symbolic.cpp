#include "tanzen/expression/symbolic.hpp"

#include <cmath>
#include <numbers>
#include <optional>

namespace tanzen {
namespace {

bool is_number(const Expr& x, double value) {
  return x.is_constant() && x.constant() == value;
}

/// Whether two unknown numbers are one node.
bool are_same(const Expr& a, const Expr& b) {
  Graph* graph = a.graph();
  return graph != nullptr && graph == b.graph() && !a.is_constant() && a.node_in(*graph) == b.node_in(*graph);
}

/// A product taken apart into its constant factor and the rest.
struct Factored {
  double factor = 1;
  Expr rest = 1;
};

Factored factored(const Expr& x) {
  if (x.is_constant()) return {x.constant(), 1};
  Graph& graph = *x.graph();
  const Node node = graph.node(x.node_in(graph));
  if (node.operation == Operation::negate) {
    const Factored inner = factored(Expr(graph, node.a));
    return {-inner.factor, inner.rest};
  }
  if (node.operation != Operation::multiply) return {1, x};
  // The constant of a product that went through here stands first in it.
  const Factored first = factored(Expr(graph, node.a));
  if (first.factor == 1) return {1, x};
  const bool is_only_factor = is_number(first.rest, 1);
  return {first.factor, is_only_factor ? Expr(graph, node.b) : first.rest * Expr(graph, node.b)};
}

/// The constants gather in one factor that comes first.
Expr product(const Expr& a, const Expr& b) {
  if (is_number(a, 0) || is_number(b, 0)) return 0;
  const Factored left = factored(a), right = factored(b);
  const double factor = left.factor * right.factor;
  if (is_number(left.rest, 1) && is_number(right.rest, 1)) return factor;
  Expr rest = is_number(left.rest, 1) ? right.rest : left.rest;
  if (!is_number(left.rest, 1) && !is_number(right.rest, 1)) {
    rest = are_same(left.rest, right.rest) ? pow(left.rest, 2) : left.rest * right.rest;
  }
  if (factor == 1) return rest;
  return factor == -1 ? -rest : factor * rest;
}

/// A sum as a reader would write it: what has a negative factor is subtracted, equals make a multiple.
Expr total(const Expr& a, const Expr& b) {
  if (is_number(a, 0)) return b;
  if (is_number(b, 0)) return a;
  const Factored left = factored(a), right = factored(b);
  if (are_same(left.rest, right.rest)) return product(left.factor + right.factor, left.rest);
  if (right.factor < 0) return a - product(-right.factor, right.rest);
  if (left.factor < 0) return b - product(-left.factor, left.rest);
  return a + b;
}

Expr negative(const Expr& a) {
  return product(-1, a);
}

Expr difference(const Expr& a, const Expr& b) {
  return total(a, negative(b));
}

Expr quotient(const Expr& a, const Expr& b) {
  if (is_number(a, 0) && !is_number(b, 0)) return 0;
  return a / b;
}

Expr raised(const Expr& a, const Expr& b) {
  if (is_number(b, 0)) return 1;
  return is_number(b, 1) ? a : pow(a, b);
}

/// Rewrites a node with operands that were rewritten already.
Expr rewritten(Operation operation, const Expr& a, const Expr& b, const Expr& c) {
  switch (operation) {
  case Operation::add: return total(a, b);
  case Operation::subtract: return difference(a, b);
  case Operation::multiply: return product(a, b);
  case Operation::divide: return quotient(a, b);
  case Operation::negate: return negative(a);
  case Operation::power: return raised(a, b);
  default: return apply(operation, a, b, c);
  }
}

/// How an operation changes along its first and second operand, where it does.
struct Partials {
  Expr first = 0;
  Expr second = 0;
};

Partials partials(Operation operation, const Expr& x, const Expr& y, const Expr& value) {
  const Condition at_first = operation == Operation::minimum ? x < y : x > y;
  switch (operation) {
  case Operation::negate: return {-1};
  case Operation::absolute: return {sign(x)};
  case Operation::square_root: return {quotient(0.5, value)};
  case Operation::cube_root: return {quotient(1, product(3, pow(value, 2)))};
  case Operation::exp: return {value};
  case Operation::log: return {quotient(1, x)};
  case Operation::log2: return {quotient(1 / std::numbers::ln2, x)};
  case Operation::log10: return {quotient(1 / std::numbers::ln10, x)};
  case Operation::sin: return {cos(x)};
  case Operation::cos: return {negative(sin(x))};
  case Operation::tan: return {1 + pow(value, 2)};
  case Operation::asin: return {1 / sqrt(1 - pow(x, 2))};
  case Operation::acos: return {-1 / sqrt(1 - pow(x, 2))};
  case Operation::atan: return {1 / (1 + pow(x, 2))};
  case Operation::sinh: return {cosh(x)};
  case Operation::cosh: return {sinh(x)};
  case Operation::tanh: return {1 - pow(value, 2)};
  case Operation::add: return {1, 1};
  case Operation::subtract: return {1, -1};
  case Operation::multiply: return {y, x};
  case Operation::divide: return {quotient(1, y), negative(quotient(x, pow(y, 2)))};
  case Operation::power: return {product(y, raised(x, difference(y, 1))), product(value, log(x))};
  case Operation::atan2:
    return {quotient(y, total(pow(x, 2), pow(y, 2))), negative(quotient(x, total(pow(x, 2), pow(y, 2))))};
  case Operation::hypot: return {quotient(x, value), quotient(y, value)};
  case Operation::minimum:
  case Operation::maximum: return {choose(at_first, 1, 0), choose(at_first, 0, 1)};
  default: return {};
  }
}

/// Rewrites a whole expression into another graph of the same variables, node by node in order.
class Rewriter {
 public:
  explicit Rewriter(const Expression& expression)
      : source_(expression.graph()), root_(expression.root()), names_(expression.variable_names()),
        target_(std::make_shared<Graph>(source_.variables())) {
    for (NodeId id = 0; id <= root_; ++id) values_.push_back(rewrite(source_.node(id)));
  }

  [[nodiscard]] Expression simplified() const { return finished(values_[root_]); }

  /// Forward mode, symbolically: each node's derivative from those of its operands.
  [[nodiscard]] Expression derivative(Index variable) const {
    std::vector<Expr> slopes;
    for (NodeId id = 0; id <= root_; ++id) slopes.push_back(slope_of(id, variable, slopes));
    return finished(slopes[root_]);
  }

 private:
  [[nodiscard]] Expr rewrite(const Node& node) const {
    if (node.operation == Operation::constant) return node.constant();
    if (node.operation == Operation::variable) return {*target_, node.variable()};
    const int operands = operand_count(node.operation);
    return rewritten(node.operation, values_[node.a], operands > 1 ? values_[node.b] : Expr(),
                     operands > 2 ? values_[node.c] : Expr());
  }

  [[nodiscard]] Expr slope_of(NodeId id, Index variable, const std::vector<Expr>& slopes) const {
    const Node& node = source_.node(id);
    if (node.operation == Operation::variable) return node.variable() == static_cast<NodeId>(variable) ? 1 : 0;
    if (node.operation == Operation::constant) return 0;
    if (node.operation == Operation::select) {
      if (is_number(slopes[node.b], 0) && is_number(slopes[node.c], 0)) return 0;
      return apply(Operation::select, values_[node.a], slopes[node.b], slopes[node.c]);
    }
    const bool has_second = operand_count(node.operation) > 1;
    const Expr first_slope = slopes[node.a], second_slope = has_second ? slopes[node.b] : Expr(0);
    if (is_number(first_slope, 0) && is_number(second_slope, 0)) return 0;
    const Partials by = partials(node.operation, values_[node.a], has_second ? values_[node.b] : Expr(1), values_[id]);
    const Expr first = is_number(first_slope, 0) ? Expr(0) : product(by.first, first_slope);
    const Expr second = is_number(second_slope, 0) ? Expr(0) : product(by.second, second_slope);
    return total(first, second);
  }

  [[nodiscard]] Expression finished(const Expr& root) const { return {target_, root.node_in(*target_), names_}; }

  const Graph& source_;
  NodeId root_;
  std::vector<std::string> names_;
  std::shared_ptr<Graph> target_;
  std::vector<Expr> values_;
};

} // namespace

Expression simplified(const Expression& expression) {
  return Rewriter(expression).simplified();
}

Expression partial_derivative(const Expression& expression, Index variable) {
  return simplified(Rewriter(expression).derivative(variable));
}

} // namespace tanzen
