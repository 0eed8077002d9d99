#include "tanzen/expression/tape.hpp"

#include "scalar_rules.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <cstring>
#include <optional>

namespace tanzen {
namespace {

using rules::Dual;

/// A power whose exponent is known becomes products, a root or a quotient, which are faster and as exact.
std::optional<Instruction> fixed_power(NodeId base_slot, double exponent) {
  constexpr double largest = 64;
  if (exponent == 2) return Instruction{Operation::square, base_slot, 0, 0};
  if (exponent == -1) return Instruction{Operation::reciprocal, base_slot, 0, 0};
  if (exponent == 0.5) return Instruction{Operation::square_root, base_slot, 0, 0};
  if (exponent != std::round(exponent) || std::abs(exponent) > largest) return std::nullopt;
  const auto bits = static_cast<NodeId>(static_cast<std::int32_t>(exponent));
  return Instruction{Operation::integer_power, base_slot, bits, 0};
}

/// Marks the nodes that the outputs need.
std::vector<bool> reachable(const Graph& graph, std::span<const NodeId> outputs) {
  std::vector<bool> needed(graph.size(), false);
  for (const NodeId output : outputs) needed[output] = true;
  for (std::size_t i = graph.size(); i-- > 0;) {
    if (!needed[i]) continue;
    const Node& node = graph.node(static_cast<NodeId>(i));
    const NodeId operands[] = {node.a, node.b, node.c};
    for (int k = 0; k < operand_count(node.operation); ++k) needed[operands[k]] = true;
  }
  return needed;
}

/// Operands that an operation does not have are read as slot 0 and thrown away by the compiler.
template <Operation operation>
constexpr bool has_second = operation >= Operation::add && operation <= Operation::select;
template <Operation operation>
constexpr bool has_third = operation == Operation::select;

template <class T>
void sweep_forward(std::span<const Instruction> instructions, std::size_t first_slot, T* values) {
  T* result = values + first_slot;
  for (const Instruction& step : instructions) {
    *result = rules::visit(step.operation, [&]<Operation known>() -> T {
      const T& second = has_second<known> ? values[step.b] : values[step.a];
      const T& third = has_third<known> ? values[step.c] : values[step.a];
      return rules::value_of<known, T>(values[step.a], second, third, static_cast<std::int32_t>(step.b));
    });
    ++result;
  }
}

template <class T>
void sweep_backward(std::span<const Instruction> instructions, std::size_t first_slot, const T* values, T* adjoints) {
  for (std::size_t k = instructions.size(); k-- > 0;) {
    const Instruction& step = instructions[k];
    const T weight = adjoints[first_slot + k];
    // What does not matter adds nothing, even where its own slope is infinite or not a number.
    if constexpr (std::is_same_v<T, Dual>) {
      if (weight.value == 0 && weight.change == 0) continue;
    } else {
      if (weight == 0) continue;
    }
    rules::visit(step.operation, [&]<Operation known>() {
      const NodeId second = has_second<known> ? step.b : step.a;
      const NodeId third = has_third<known> ? step.c : step.a;
      rules::add_adjoints<known, T>(values[first_slot + k], weight, values[step.a], values[second],
                                    static_cast<std::int32_t>(step.b), adjoints[step.a], adjoints[second],
                                    adjoints[third]);
    });
  }
}

} // namespace

Tape::Tape(const Expression& expression) : variables_(expression.graph().variables()) {
  const NodeId root = expression.root();
  lay_out(expression.graph(), std::span(&root, 1));
}

Tape::Tape(const Graph& graph, std::span<const NodeId> outputs) : variables_(graph.variables()) {
  lay_out(graph, outputs);
}

void Tape::lay_out(const Graph& graph, std::span<const NodeId> outputs) {
  std::vector<bool> needed = reachable(graph, outputs);
  std::vector<NodeId> slot_of(graph.size(), 0);
  for (std::size_t i = 0; i < variables_; ++i) slot_of[i] = static_cast<NodeId>(i);
  for (std::size_t i = variables_; i < graph.size(); ++i) {
    const Node& node = graph.node(static_cast<NodeId>(i));
    if (!needed[i] || !node.is_constant()) continue;
    slot_of[i] = static_cast<NodeId>(variables_ + constants_.size());
    constants_.push_back(node.constant());
  }
  NodeId next = static_cast<NodeId>(variables_ + constants_.size());
  instructions_.reserve(static_cast<std::size_t>(std::count(needed.begin(), needed.end(), true)));
  for (std::size_t i = variables_; i < graph.size(); ++i) {
    const Node& node = graph.node(static_cast<NodeId>(i));
    if (!needed[i] || node.is_constant()) continue;
    Instruction step{node.operation, slot_of[node.a], slot_of[node.b], slot_of[node.c]};
    if (node.operation == Operation::power && graph.node(node.b).is_constant()) {
      step = fixed_power(slot_of[node.a], graph.node(node.b).constant()).value_or(step);
    }
    instructions_.push_back(step);
    slot_of[i] = next++;
  }
  for (const NodeId output : outputs) outputs_.push_back(slot_of[output]);
}

Tape::Workspace Tape::workspace() const {
  Workspace work;
  const std::size_t slots = variables_ + constants_.size() + instructions_.size();
  work.values.resize(slots);
  work.adjoints.resize(slots);
  std::copy(constants_.begin(), constants_.end(), work.values.begin() + static_cast<std::ptrdiff_t>(variables_));
  return work;
}

double Tape::evaluate(const Vector& x, Workspace& work) const {
  assert(x.size() == dimension());
  std::copy(x.begin(), x.end(), work.values.begin());
  sweep_forward<double>(instructions_, variables_ + constants_.size(), work.values.data());
  return work.values[outputs_.front()];
}

void Tape::weighted_gradient(std::span<const double> weights, Workspace& work, Vector& gradient) const {
  std::fill(work.adjoints.begin(), work.adjoints.end(), 0.0);
  for (std::size_t k = 0; k < weights.size(); ++k) work.adjoints[outputs_[k]] += weights[k];
  sweep_backward<double>(instructions_, variables_ + constants_.size(), work.values.data(), work.adjoints.data());
  gradient = Eigen::Map<const Vector>(work.adjoints.data(), dimension());
}

double Tape::gradient(const Vector& x, Workspace& work, Vector& gradient) const {
  const double value = evaluate(x, work);
  const double one = 1;
  weighted_gradient(std::span(&one, 1), work, gradient);
  return value;
}

void Tape::hessian_times(const Vector& x, const Vector& direction, Workspace& work, Vector& product) const {
  const std::size_t first = variables_ + constants_.size();
  const std::size_t slots = first + instructions_.size();
  work.dual_values.resize(slots);
  work.dual_adjoints.assign(slots, Dual());
  Dual* values = work.dual_values.data();
  Dual* adjoints = work.dual_adjoints.data();
  for (std::size_t i = 0; i < variables_; ++i) {
    values[i] = {x[static_cast<Index>(i)], direction[static_cast<Index>(i)]};
  }
  for (std::size_t i = 0; i < constants_.size(); ++i) values[variables_ + i] = {constants_[i], 0};
  sweep_forward<Dual>(instructions_, first, values);
  adjoints[outputs_.front()] = {1, 0};
  sweep_backward<Dual>(instructions_, first, values, adjoints);
  product.resize(dimension());
  for (std::size_t i = 0; i < variables_; ++i) product[static_cast<Index>(i)] = adjoints[i].change;
}

void Tape::hessian(const Vector& x, Workspace& work, Matrix& hessian) const {
  const Index n = dimension();
  hessian.resize(n, n);
  Vector direction = Vector::Zero(n), column;
  for (Index j = 0; j < n; ++j) {
    direction[j] = 1;
    hessian_times(x, direction, work, column);
    direction[j] = 0;
    hessian.col(j) = column;
  }
  hessian = (0.5 * (hessian + hessian.transpose())).eval();
}

} // namespace tanzen
