#pragma once

#include "tanzen/expression/graph.hpp"

#include <array>
#include <span>
#include <vector>

/// What tapes share before they lay an expression out: which nodes, doing what, in which order.
namespace tanzen {

/// What a node does on a tape, operands still by node.
struct PlannedStep {
  Operation operation;
  std::int32_t exponent = 0; ///< of an integer power
};

/// A power whose exponent is known becomes products, a root or a quotient, which are faster and as exact.
[[nodiscard]] PlannedStep planned(const Graph& graph, const Node& node);

/// The operands that a node has: none to three.
class NodeOperands {
 public:
  explicit NodeOperands(const Node& node)
      : ids_{node.a, node.b, node.c}, count_(static_cast<std::size_t>(operand_count(node.operation))) {}
  [[nodiscard]] auto begin() const { return ids_.begin(); }
  [[nodiscard]] auto end() const { return ids_.begin() + static_cast<std::ptrdiff_t>(count_); }

 private:
  std::array<NodeId, 3> ids_;
  std::size_t count_;
};

/// Whether a node is computed: it is neither a constant nor a variable.
[[nodiscard]] inline bool computes(const Node& node) {
  return operand_count(node.operation) > 0;
}

/// Marks the nodes that the outputs need.
[[nodiscard]] std::vector<bool> needed_nodes(const Graph& graph, std::span<const NodeId> outputs);

/// The needed nodes that compute something, ordered so that equal operations follow each other: always the operation
/// that has most nodes ready, until it has none left, those that became ready meanwhile among them.
[[nodiscard]] std::vector<NodeId> grouped_order(const Graph& graph, const std::vector<bool>& needed);

} // namespace tanzen
