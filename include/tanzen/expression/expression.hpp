#pragma once

#include "tanzen/expression/expr.hpp"

#include <cstddef>
#include <memory>
#include <string>
#include <utility>
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
  [[nodiscard]] const std::shared_ptr<const Graph>& shared_graph() const { return graph_; }
  [[nodiscard]] NodeId root() const { return root_; }
  [[nodiscard]] Index dimension() const { return static_cast<Index>(graph_->variables()); }
  [[nodiscard]] const std::vector<std::string>& variable_names() const { return names_; }

 private:
  std::shared_ptr<const Graph> graph_;
  NodeId root_;
  std::vector<std::string> names_;
};

/// Several finished expressions of the same variables over one graph, so that what they share is there once: the parts
/// of a problem. An immutable value, cheap to copy.
class Expressions {
 public:
  Expressions(std::shared_ptr<const Graph> graph, std::vector<NodeId> roots,
              std::vector<std::string> variable_names = {});
  Expressions(const Expression& one) : Expressions(one.shared_graph(), {one.root()}, one.variable_names()) {}

  [[nodiscard]] const Graph& graph() const { return *graph_; }
  [[nodiscard]] const std::shared_ptr<const Graph>& shared_graph() const { return graph_; }
  [[nodiscard]] const std::vector<NodeId>& roots() const { return roots_; }
  [[nodiscard]] const std::vector<std::string>& variable_names() const { return names_; }
  [[nodiscard]] Index dimension() const { return static_cast<Index>(graph_->variables()); }
  [[nodiscard]] Index size() const { return static_cast<Index>(roots_.size()); }
  [[nodiscard]] Expression operator[](Index k) const { return {graph_, roots_[static_cast<std::size_t>(k)], names_}; }

  /// With what `add` builds of the same variables after the others: it is called once with the coordinates and returns
  /// a std::vector<Expr>. Cost: a copy of the graph.
  template <class Add>
  [[nodiscard]] Expressions with(Add&& add) const {
    auto graph = std::make_shared<Graph>(*graph_);
    std::vector<NodeId> roots = roots_;
    for (const Expr& each : add(static_cast<const TracedPoint&>(TracedPoint(*graph))))
      roots.push_back(each.node_in(*graph));
    return {std::move(graph), std::move(roots), names_};
  }

  /// What they are at a point whose coordinates stand in another graph, for building on them there. Requires that one
  /// of the coordinates is no plain constant.
  [[nodiscard]] std::vector<Expr> at(const TracedPoint& point) const;

  /// With the expressions of `others`, of the same variables, at the place `at`. Cost: a copy of both graphs.
  [[nodiscard]] Expressions inserted(Index at, const Expressions& others) const;

  /// The same with the first variables changed alone, as below; the others stay.
  template <class Change>
  [[nodiscard]] Expressions of_changed_head(Index head, Change&& change) const {
    auto graph = std::make_shared<Graph>(graph_->variables());
    const TracedPoint all(*graph);
    std::vector<Expr> first, changed;
    for (Index i = 0; i < head; ++i) first.push_back(all[i]);
    const TracedPoint moved = change(static_cast<const TracedPoint&>(TracedPoint(std::move(first))));
    for (Index i = 0; i < all.size(); ++i) changed.push_back(i < head ? moved[i] : all[i]);
    return replayed(graph, TracedPoint(std::move(changed)));
  }

  /// The same of other variables: `change` is called once with those and returns, as a TracedPoint, what stands in
  /// their place here. Operations keep their order, so that values have the bits of a function of the changed point.
  template <class Change>
  [[nodiscard]] Expressions of_changed_point(Change&& change) const {
    auto graph = std::make_shared<Graph>(graph_->variables());
    return replayed(graph, change(static_cast<const TracedPoint&>(TracedPoint(*graph))));
  }

 private:
  [[nodiscard]] Expressions replayed(const std::shared_ptr<Graph>& graph, const TracedPoint& point) const;
  [[nodiscard]] std::vector<NodeId> replay(Graph& graph, const TracedPoint& point) const;

  std::shared_ptr<const Graph> graph_;
  std::vector<NodeId> roots_;
  std::vector<std::string> names_;
};

} // namespace tanzen
