#include "tanzen/expression/expression.hpp"

#include <cassert>
#include <fmt/format.h>

namespace tanzen {

Expression::Expression(std::shared_ptr<const Graph> graph, NodeId root, std::vector<std::string> variable_names)
    : graph_(std::move(graph)), root_(root), names_(std::move(variable_names)) {
  for (std::size_t i = names_.size(); i < graph_->variables(); ++i) names_.push_back(fmt::format("x{}", i + 1));
  assert(root_ < graph_->size() && names_.size() == graph_->variables());
}

} // namespace tanzen
