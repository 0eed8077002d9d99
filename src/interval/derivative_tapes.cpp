#include "tanzen/interval/derivative_tapes.hpp"

#include "tanzen/expression/symbolic.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <optional>

namespace tanzen {
namespace {

/// Whether a derivative has the number, and one less, without rounding, also multiplied by some others of its kind.
bool is_small_quarter(double x) {
  constexpr double most = 64;
  return std::abs(x) <= most && 4 * x == std::round(4 * x);
}

/// The expression with its numbers as further variables, and those; nothing where some derivative is rounded.
struct Opened {
  Expression expression;
  std::vector<double> numbers;
};

std::optional<Opened> opened(const Expression& given) {
  const Graph& graph = given.graph();
  std::vector<char> needed(given.root() + std::size_t{1}, 0), is_number(needed.size(), 0);
  needed[given.root()] = 1;
  for (std::size_t k = needed.size(); k-- > 0;) {
    if (needed[k] == 0) continue;
    const Node& node = graph.node(static_cast<NodeId>(k));
    if (node.operation == Operation::log2 || node.operation == Operation::log10) return std::nullopt;
    const int operands = operand_count(node.operation);
    const NodeId by_place[] = {node.a, node.b, node.c};
    for (int place = 0; place < operands; ++place) {
      const NodeId operand = by_place[place];
      const Node& other = graph.node(operand);
      if (node.operation == Operation::power && place == 1 && other.is_constant()) {
        if (!is_small_quarter(other.constant())) return std::nullopt;
        continue;
      }
      if (other.is_constant()) is_number[operand] = 1;
      needed[operand] = 1;
    }
  }
  std::vector<double> numbers;
  std::vector<std::size_t> place_of(needed.size(), 0);
  for (std::size_t k = 0; k < needed.size(); ++k) {
    if (is_number[k] == 0) continue;
    place_of[k] = graph.variables() + numbers.size();
    numbers.push_back(graph.node(static_cast<NodeId>(k)).constant());
  }
  auto open = std::make_shared<Graph>(graph.variables() + numbers.size());
  std::vector<NodeId> now(needed.size(), 0);
  const auto operand = [&](NodeId id) {
    const Node& node = graph.node(id);
    return node.is_constant() && is_number[id] == 0 ? open->constant(node.constant()) : now[id];
  };
  for (std::size_t k = 0; k < needed.size(); ++k) {
    const Node& node = graph.node(static_cast<NodeId>(k));
    if (node.operation == Operation::variable) {
      now[k] = static_cast<NodeId>(k);
    } else if (is_number[k] != 0) {
      now[k] = static_cast<NodeId>(place_of[k]);
    } else if (needed[k] != 0 && !node.is_constant()) {
      const int operands = operand_count(node.operation);
      // An exponent stays a number, also where the same number stands elsewhere.
      const bool is_fixed = node.operation == Operation::power && graph.node(node.b).is_constant();
      const NodeId b = is_fixed ? open->constant(graph.node(node.b).constant()) : operands > 1 ? operand(node.b) : 0;
      now[k] = open->apply(node.operation, operand(node.a), b, operands > 2 ? operand(node.c) : 0);
    }
  }
  return Opened{Expression(open, now[given.root()]), std::move(numbers)};
}

} // namespace

DerivativeTapes::DerivativeTapes(const Expression& expression) {
  const std::optional<Opened> open = opened(expression);
  if (!open) return;
  numbers_.assign(open->numbers.begin(), open->numbers.end());
  box_.resize(static_cast<std::size_t>(open->expression.dimension()));
  std::ranges::copy(numbers_, box_.end() - static_cast<std::ptrdiff_t>(numbers_.size()));
  for (Index i = 0; i < expression.dimension(); ++i) {
    tapes_.emplace_back(partial_derivative(open->expression, i));
    work_.push_back(tapes_.back().workspace());
  }
}

bool DerivativeTapes::contract(Index variable, std::span<Enclosure> box) {
  const auto i = static_cast<std::size_t>(variable);
  std::ranges::copy(box, box_.begin());
  std::ranges::copy(numbers_, box_.end() - static_cast<std::ptrdiff_t>(numbers_.size()));
  if (!tapes_[i].evaluate(box_, IntervalTape::Order::value, work_[i]).is_smooth()) return true;
  if (!tapes_[i].contract(0, box_, work_[i])) return false;
  std::copy_n(box_.begin(), box.size(), box.begin());
  return true;
}

} // namespace tanzen
