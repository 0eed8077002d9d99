#include "tanzen/expression/graph.hpp"

#include "scalar_rules.hpp"

#include <cassert>
#include <utility>

namespace tanzen {
namespace {

std::uint64_t mixed(std::uint64_t x) {
  x ^= x >> 33U;
  x *= 0xff51afd7ed558ccdULL;
  x ^= x >> 33U;
  x *= 0xc4ceb9fe1a85ec53ULL;
  return x ^ (x >> 33U);
}

bool commutes(Operation operation) {
  return operation == Operation::add || operation == Operation::multiply || operation == Operation::equal;
}

std::uint64_t hash_of(const Node& node) {
  std::uint64_t a = node.a, b = node.b;
  if (commutes(node.operation) && a > b) std::swap(a, b);
  return mixed((a << 32U | b) ^ mixed(std::uint64_t{node.c} << 8U | static_cast<std::uint64_t>(node.operation)));
}

bool same(const Node& left, const Node& right) {
  if (left == right) return true;
  return left.operation == right.operation && commutes(left.operation) && left.a == right.b && left.b == right.a;
}

} // namespace

Graph::Graph(std::size_t variables) : variables_(variables) {
  nodes_.reserve(variables);
  for (std::size_t i = 0; i < variables; ++i) nodes_.push_back({Operation::variable, static_cast<NodeId>(i)});
}

NodeId Graph::constant(double value) {
  const auto bits = std::bit_cast<std::uint64_t>(value);
  return find_or_add({Operation::constant, static_cast<NodeId>(bits), static_cast<NodeId>(bits >> 32U)});
}

bool Graph::is_value(NodeId id, double value) const {
  return nodes_[id].is_constant() && nodes_[id].constant() == value;
}

bool Graph::all_constant(const Node& node) const {
  const NodeId operands[] = {node.a, node.b, node.c};
  for (int i = 0; i < operand_count(node.operation); ++i) {
    if (!nodes_[operands[i]].is_constant()) return false;
  }
  return true;
}

NodeId Graph::apply(Operation operation, NodeId a, NodeId b, NodeId c) {
  const Node made{operation, a, b, c};
  if (all_constant(made)) {
    const auto operand = [&](NodeId id, int place) {
      return place < operand_count(operation) ? nodes_[id].constant() : 0.0;
    };
    const double value = rules::visit(operation, [&]<Operation known>() {
      return rules::value_of<known>(operand(a, 0), operand(b, 1), operand(c, 2), 0);
    });
    return constant(value);
  }
  switch (operation) {
  case Operation::add:
    if (is_value(a, 0)) return b;
    if (is_value(b, 0)) return a;
    break;
  case Operation::subtract:
    if (is_value(b, 0)) return a;
    if (is_value(a, 0)) return apply(Operation::negate, b);
    break;
  case Operation::multiply:
    if (is_value(a, 1)) return b;
    if (is_value(b, 1)) return a;
    break;
  case Operation::divide:
    if (is_value(b, 1)) return a;
    break;
  case Operation::power:
    if (is_value(b, 1)) return a;
    if (is_value(b, 0)) return constant(1);
    break;
  case Operation::negate:
    if (nodes_[a].operation == Operation::negate) return nodes_[a].a;
    break;
  case Operation::select:
    if (nodes_[a].is_constant()) return nodes_[a].constant() != 0 ? b : c;
    if (b == c) return b;
    break;
  default: break;
  }
  return find_or_add(made);
}

NodeId Graph::find_or_add(const Node& node) {
  if (table_.size() < 2 * (nodes_.size() + 1)) grow_table();
  const std::size_t mask = table_.size() - 1;
  std::size_t place = hash_of(node) & mask;
  while (table_[place] != 0) {
    const NodeId found = table_[place] - 1;
    if (same(nodes_[found], node)) return found;
    place = (place + 1) & mask;
  }
  assert(nodes_.size() < ~NodeId{0} - 1);
  nodes_.push_back(node);
  table_[place] = static_cast<NodeId>(nodes_.size());
  return table_[place] - 1;
}

void Graph::grow_table() {
  table_.assign(std::bit_ceil(4 * (nodes_.size() + 16)), 0);
  const std::size_t mask = table_.size() - 1;
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    std::size_t place = hash_of(nodes_[i]) & mask;
    while (table_[place] != 0) place = (place + 1) & mask;
    table_[place] = static_cast<NodeId>(i + 1);
  }
}

} // namespace tanzen
