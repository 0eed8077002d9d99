#include "tape_plan.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace tanzen {

PlannedStep planned(const Graph& graph, const Node& node) {
  constexpr double largest = 64;
  if (node.operation != Operation::power || !graph.node(node.b).is_constant()) return {node.operation};
  const double exponent = graph.node(node.b).constant();
  if (exponent == 2) return {Operation::square};
  if (exponent == -1) return {Operation::reciprocal};
  if (exponent == 0.5) return {Operation::square_root};
  if (exponent != std::round(exponent) || std::abs(exponent) > largest) return {node.operation};
  return {Operation::integer_power, static_cast<std::int32_t>(exponent)};
}

std::vector<bool> needed_nodes(const Graph& graph, std::span<const NodeId> outputs) {
  std::vector<bool> needed(graph.size(), false);
  for (const NodeId output : outputs) needed[output] = true;
  for (auto id = static_cast<NodeId>(graph.size()); id-- > 0;) {
    if (!needed[id]) continue;
    for (const NodeId operand : NodeOperands(graph.node(id))) needed[operand] = true;
  }
  return needed;
}

namespace {

/// For each node the nodes that are computed from it.
class Users {
 public:
  Users(const Graph& graph, const std::vector<bool>& needed) : first_(graph.size() + 1, 0) {
    each_use(graph, needed, [&](NodeId operand, NodeId) { ++first_[operand + 1]; });
    std::partial_sum(first_.begin(), first_.end(), first_.begin());
    users_.resize(first_.back());
    std::vector<std::uint32_t> next(first_.begin(), first_.end() - 1);
    each_use(graph, needed, [&](NodeId operand, NodeId user) { users_[next[operand]++] = user; });
  }

  [[nodiscard]] std::span<const NodeId> of(NodeId id) const {
    return std::span(users_).subspan(first_[id], first_[id + 1] - first_[id]);
  }

  /// Calls `visit(operand, user)` for each operand that is computed itself.
  template <class Visit>
  static void each_use(const Graph& graph, const std::vector<bool>& needed, Visit&& visit) {
    for (NodeId id = 0; id < graph.size(); ++id) {
      if (!needed[id]) continue;
      for (const NodeId operand : NodeOperands(graph.node(id))) {
        if (computes(graph.node(operand))) visit(operand, id);
      }
    }
  }

 private:
  std::vector<std::uint32_t> first_; ///< of node i, in `users_`
  std::vector<NodeId> users_;
};

/// Nodes of one operation whose operands are all there.
struct Queue {
  std::vector<NodeId> nodes;
  std::size_t taken = 0;
  [[nodiscard]] std::size_t left() const { return nodes.size() - taken; }
};

} // namespace

std::vector<NodeId> grouped_order(const Graph& graph, const std::vector<bool>& needed) {
  const Users users(graph, needed);
  std::vector<std::uint32_t> waiting(graph.size(), 0);
  Users::each_use(graph, needed, [&](NodeId, NodeId user) { ++waiting[user]; });

  std::array<Queue, static_cast<std::size_t>(Operation::integer_power) + 1> ready;
  const auto make_ready = [&](NodeId id) {
    ready[static_cast<std::size_t>(planned(graph, graph.node(id)).operation)].nodes.push_back(id);
  };
  for (NodeId id = 0; id < graph.size(); ++id) {
    if (needed[id] && computes(graph.node(id)) && waiting[id] == 0) make_ready(id);
  }

  std::vector<NodeId> order;
  for (;;) {
    Queue& queue = *std::ranges::max_element(ready, {}, &Queue::left);
    if (queue.left() == 0) return order;
    while (queue.left() > 0) {
      const NodeId id = queue.nodes[queue.taken++];
      order.push_back(id);
      for (const NodeId user : users.of(id)) {
        if (--waiting[user] == 0) make_ready(user);
      }
    }
    queue = {};
  }
}

} // namespace tanzen
