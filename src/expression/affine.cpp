#include "tanzen/expression/affine.hpp"

#include <algorithm>
#include <cstdint>

namespace tanzen {
namespace {

/// How a node hangs on the coordinates chosen: not at all, as an affine function, or otherwise.
enum Degree : std::uint8_t { none = 0, affine = 1, other = 2 };

Degree capped(int degree) {
  return static_cast<Degree>(std::min(degree, static_cast<int>(other)));
}

Degree degree_of(const Node& node, const std::vector<Degree>& of) {
  switch (node.operation) {
  case Operation::constant: return none;
  case Operation::negate: return of[node.a];
  case Operation::add:
  case Operation::subtract: return std::max(of[node.a], of[node.b]);
  case Operation::multiply: return capped(of[node.a] + of[node.b]);
  case Operation::divide: return of[node.b] == none ? of[node.a] : other;
  case Operation::select: return of[node.a] == none ? std::max(of[node.b], of[node.c]) : other;
  default: break;
  }
  Degree most = none;
  const int operands = operand_count(node.operation);
  if (operands > 0) most = std::max(most, of[node.a]);
  if (operands > 1) most = std::max(most, of[node.b]);
  if (operands > 2) most = std::max(most, of[node.c]);
  return most == none ? none : other;
}

Degree degree_in(const Expressions& expressions, const std::vector<Index>& chosen) {
  const Graph& graph = expressions.graph();
  std::vector<Degree> of(graph.size(), none);
  for (NodeId id = 0; id < graph.size(); ++id) {
    const Node& node = graph.node(id);
    if (node.operation == Operation::variable)
      of[id] = std::ranges::find(chosen, static_cast<Index>(node.variable())) != chosen.end() ? affine : none;
    else
      of[id] = degree_of(node, of);
  }
  Degree most = none;
  for (const NodeId root : expressions.roots()) most = std::max(most, of[root]);
  return most;
}

} // namespace

std::vector<Index> affine_coordinates(const Expressions& expressions, Index among) {
  std::vector<Index> taken;
  for (Index i = 0; i < among; ++i) {
    if (degree_in(expressions, {i}) != affine) continue;
    taken.push_back(i);
    if (degree_in(expressions, taken) != affine) taken.pop_back();
  }
  return taken;
}

} // namespace tanzen
