#pragma once

#include "tanzen/expression/operation.hpp"

#include <bit>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace tanzen {

/// Place of a node in its graph. Operands stand before what uses them.
using NodeId = std::uint32_t;

/// One value of an expression: an operation and where its operands stand. A constant keeps its bits, a
/// variable its number, in place of operands.
struct Node {
  Operation operation = Operation::constant;
  NodeId a = 0;
  NodeId b = 0;
  NodeId c = 0;

  [[nodiscard]] bool is_constant() const { return operation == Operation::constant; }
  [[nodiscard]] double constant() const { return std::bit_cast<double>((std::uint64_t{b} << 32) | a); }
  [[nodiscard]] NodeId variable() const { return a; }
  bool operator==(const Node&) const = default;
};

/// A growing set of expressions that share equal parts: a node that exists already is found, not made
/// again, and what has only constant operands is computed at once, with the same bits as on a tape.
///
/// Only rewrites that keep the value of every input are made: `x + 0`, `x * 1`, `x / 1`, `x^1`, `x^0`,
/// `-(-x)`, a choice with a constant condition. Amortized constant time and about 24 bytes a node.
class Graph {
 public:
  explicit Graph(std::size_t variables);

  [[nodiscard]] NodeId constant(double value);
  [[nodiscard]] NodeId variable(std::size_t index) const { return static_cast<NodeId>(index); }
  [[nodiscard]] NodeId apply(Operation operation, NodeId a, NodeId b = 0, NodeId c = 0);

  [[nodiscard]] const Node& node(NodeId id) const { return nodes_[id]; }
  [[nodiscard]] std::size_t size() const { return nodes_.size(); }
  [[nodiscard]] std::size_t variables() const { return variables_; }

 private:
  [[nodiscard]] NodeId find_or_add(const Node& node);
  [[nodiscard]] bool is_value(NodeId id, double value) const;
  [[nodiscard]] bool all_constant(const Node& node) const;
  void grow_table();

  std::size_t variables_;
  std::vector<Node> nodes_;
  std::vector<NodeId> table_; ///< open addressing; a place holds a node's id plus one, or zero
};

} // namespace tanzen
