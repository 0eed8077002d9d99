#pragma once

#include "tanzen/expression/expr.hpp"

#include <memory>
#include <string>
#include <vector>

namespace tanzen {

/// A finished expression of some variables: an immutable value, cheap to copy, safe to share.
class Expression {
 public:
  /// `root` is a node of the graph. Names default to x1, x2, ...
  Expression(std::shared_ptr<const Graph> graph, NodeId root, std::vector<std::string> variable_names = {});

  /// The expression that a callable computes of `variables` unknown numbers: it is called once with a
  /// TracedPoint and returns an Expr (or a double).
  template <class Function>
  [[nodiscard]] static Expression traced(Index variables, Function&& function) {
    auto graph = std::make_shared<Graph>(static_cast<std::size_t>(variables));
    const Expr result = function(static_cast<const TracedPoint&>(TracedPoint(*graph)));
    const NodeId root = result.node_in(*graph);
    return {std::move(graph), root};
  }

  [[nodiscard]] const Graph& graph() const { return *graph_; }
  [[nodiscard]] NodeId root() const { return root_; }
  [[nodiscard]] Index dimension() const { return static_cast<Index>(graph_->variables()); }
  [[nodiscard]] const std::vector<std::string>& variable_names() const { return names_; }

 private:
  std::shared_ptr<const Graph> graph_;
  NodeId root_;
  std::vector<std::string> names_;
};

} // namespace tanzen
