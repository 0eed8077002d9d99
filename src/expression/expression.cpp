#include "tanzen/expression/expression.hpp"

#include "tape_plan.hpp"

#include <cassert>
#include <fmt/format.h>

namespace tanzen {
namespace {

std::vector<std::string> completed(std::vector<std::string> names, const Graph& graph) {
  for (std::size_t i = names.size(); i < graph.variables(); ++i) names.push_back(fmt::format("x{}", i + 1));
  return names;
}

} // namespace

Expression::Expression(std::shared_ptr<const Graph> graph, NodeId root, std::vector<std::string> variable_names)
    : graph_(std::move(graph)), root_(root), names_(completed(std::move(variable_names), *graph_)) {
  assert(root_ < graph_->size() && names_.size() == graph_->variables());
}

Expressions::Expressions(std::shared_ptr<const Graph> graph, std::vector<NodeId> roots,
                         std::vector<std::string> variable_names)
    : graph_(std::move(graph)), roots_(std::move(roots)), names_(completed(std::move(variable_names), *graph_)) {}

std::vector<NodeId> Expressions::replay(Graph& graph, const TracedPoint& point) const {
  const std::vector<bool> needed = needed_nodes(*graph_, roots_);
  std::vector<NodeId> now(graph_->size());
  for (NodeId id = 0; id < graph_->size(); ++id) {
    const Node& node = graph_->node(id);
    if (node.operation == Operation::variable) {
      now[id] = point[static_cast<Index>(node.variable())].node_in(graph);
    } else if (needed[id] && node.is_constant()) {
      now[id] = graph.constant(node.constant());
    } else if (needed[id]) {
      const int operands = operand_count(node.operation);
      now[id] =
          graph.apply(node.operation, now[node.a], operands > 1 ? now[node.b] : 0, operands > 2 ? now[node.c] : 0);
    }
  }
  std::vector<NodeId> roots;
  for (const NodeId root : roots_) roots.push_back(now[root]);
  return roots;
}

Expressions Expressions::replayed(const std::shared_ptr<Graph>& graph, const TracedPoint& point) const {
  return {graph, replay(*graph, point), names_};
}

std::vector<Expr> Expressions::at(const TracedPoint& point) const {
  Graph* graph = nullptr;
  for (Index i = 0; i < point.size(); ++i) graph = point[i].graph() != nullptr ? point[i].graph() : graph;
  assert(graph != nullptr);
  std::vector<Expr> results;
  for (const NodeId root : replay(*graph, point)) results.emplace_back(*graph, root);
  return results;
}

Expressions Expressions::inserted(Index at, const Expressions& others) const {
  auto graph = std::make_shared<Graph>(*graph_);
  const std::vector<NodeId> added = others.replay(*graph, TracedPoint(*graph));
  std::vector<NodeId> roots = roots_;
  roots.insert(roots.begin() + at, added.begin(), added.end());
  return {std::move(graph), std::move(roots), names_};
}

} // namespace tanzen
