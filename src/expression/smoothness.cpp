#include "tanzen/expression/smoothness.hpp"

#include <cmath>
#include <vector>

namespace tanzen {
namespace {

bool is_smooth(const Graph& graph, const Node& node) {
  switch (node.operation) {
  case Operation::constant:
  case Operation::variable:
  case Operation::negate:
  case Operation::exp:
  case Operation::log:
  case Operation::log2:
  case Operation::log10:
  case Operation::sin:
  case Operation::cos:
  case Operation::tan:
  case Operation::atan:
  case Operation::sinh:
  case Operation::cosh:
  case Operation::tanh:
  case Operation::add:
  case Operation::subtract:
  case Operation::multiply:
  case Operation::divide:
  case Operation::square:
  case Operation::reciprocal:
  case Operation::integer_power: return true;
  case Operation::power: {
    const Node& exponent = graph.node(node.b);
    return exponent.is_constant() && exponent.constant() == std::round(exponent.constant());
  }
  default: return false;
  }
}

} // namespace

bool is_smooth(const Expression& expression) {
  const Graph& graph = expression.graph();
  std::vector<bool> needed(graph.size(), false);
  needed[expression.root()] = true;
  for (NodeId id = expression.root() + 1; id-- > 0;) {
    if (!needed[id]) continue;
    const Node& node = graph.node(id);
    if (!is_smooth(graph, node)) return false;
    const NodeId operands[] = {node.a, node.b, node.c};
    for (int k = 0; k < operand_count(node.operation); ++k) needed[operands[k]] = true;
  }
  return true;
}

} // namespace tanzen
