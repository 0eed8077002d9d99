#include "tanzen/expression/tape.hpp"

#include "scalar_rules.hpp"
#include "tape_plan.hpp"

#include <algorithm>
#include <cassert>

namespace tanzen {
namespace {

using rules::Dual;

// In both sweeps a run's loop has places of its own, and the next run begins by this one's count: the compiler would
// find by a division how far a loop came that moved the sweep's places on, at the cost of a step.

/// `slot` is that of the first step's result.
template <class T>
void sweep_forward(std::span<const OperationRun> runs, const Operands* first, std::size_t slot, T* values) {
  for (const OperationRun& run : runs) {
    const Operands* const end = first + run.count;
    rules::visit(run.operation, [&]<Operation known>() {
      const Operands* step = first;
      T* result = values + slot;
      do {
        const T& second = values[rules::has_second<known> ? step->b : step->a];
        const T& third = values[rules::has_third<known> ? step->c : step->a];
        *result++ = rules::value_of<known, T>(values[step->a], second, third, static_cast<std::int32_t>(step->b));
      } while (++step != end);
    });
    first = end;
    slot += run.count;
  }
}

bool matters(double weight) {
  return weight != 0;
}
bool matters(const Dual& weight) {
  return weight.value != 0 || weight.change != 0;
}

/// `end` and `slots` are those behind the last step.
template <class T>
void sweep_backward(std::span<const OperationRun> runs, const Operands* end, std::size_t slots, const T* values,
                    T* adjoints) {
  for (std::size_t k = runs.size(); k-- > 0;) {
    const Operands* const first = end - runs[k].count;
    rules::visit(runs[k].operation, [&]<Operation known>() {
      const Operands* step = end;
      std::size_t slot = slots;
      do {
        --step, --slot;
        // What does not matter adds nothing, even where its own slope is infinite or not a number.
        const T weight = adjoints[slot];
        if (!matters(weight)) continue;
        const NodeId second = rules::has_second<known> ? step->b : step->a;
        const NodeId third = rules::has_third<known> ? step->c : step->a;
        rules::add_adjoints<known, T>(values[slot], weight, values[step->a], values[second],
                                      static_cast<std::int32_t>(step->b), adjoints[step->a], adjoints[second],
                                      adjoints[third]);
      } while (step != first);
    });
    end = first;
    slots -= runs[k].count;
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
  const std::vector<bool> needed = needed_nodes(graph, outputs);
  std::vector<NodeId> slot_of(graph.size(), 0);
  for (std::size_t i = 0; i < variables_; ++i) slot_of[i] = static_cast<NodeId>(i);
  for (std::size_t i = variables_; i < graph.size(); ++i) {
    const Node& node = graph.node(static_cast<NodeId>(i));
    if (!needed[i] || !node.is_constant()) continue;
    slot_of[i] = static_cast<NodeId>(variables_ + constants_.size());
    constants_.push_back(node.constant());
  }
  NodeId next = static_cast<NodeId>(variables_ + constants_.size());
  for (const NodeId id : grouped_order(graph, needed)) {
    const Node& node = graph.node(id);
    const PlannedStep step = planned(graph, node);
    const bool has_exponent = step.operation == Operation::integer_power;
    append(step.operation,
           {slot_of[node.a], has_exponent ? static_cast<NodeId>(step.exponent) : slot_of[node.b], slot_of[node.c]});
    slot_of[id] = next++;
  }
  steps_.shrink_to_fit();
  for (const NodeId output : outputs) outputs_.push_back(slot_of[output]);
}

void Tape::append(Operation operation, const Operands& operands) {
  if (runs_.empty() || runs_.back().operation != operation) runs_.push_back({operation, 0});
  ++runs_.back().count;
  steps_.push_back(operands);
}

Tape::Workspace Tape::workspace() const {
  Workspace work;
  const std::size_t slots = variables_ + constants_.size() + steps_.size();
  work.values.resize(slots);
  work.adjoints.resize(slots);
  std::copy(constants_.begin(), constants_.end(), work.values.begin() + static_cast<std::ptrdiff_t>(variables_));
  return work;
}

double Tape::evaluate(const Vector& x, Workspace& work) const {
  assert(x.size() == dimension());
  std::copy(x.begin(), x.end(), work.values.begin());
  sweep_forward<double>(runs_, steps_.data(), variables_ + constants_.size(), work.values.data());
  return work.values[outputs_.front()];
}

void Tape::weighted_gradient(std::span<const double> weights, Workspace& work, Vector& gradient) const {
  std::fill(work.adjoints.begin(), work.adjoints.end(), 0.0);
  for (std::size_t k = 0; k < weights.size(); ++k) work.adjoints[outputs_[k]] += weights[k];
  sweep_backward<double>(runs_, steps_.data() + steps_.size(), work.values.size(), work.values.data(),
                         work.adjoints.data());
  gradient = Eigen::Map<const Vector>(work.adjoints.data(), dimension());
}

double Tape::gradient(const Vector& x, Workspace& work, Vector& gradient) const {
  const double value = evaluate(x, work);
  const double one = 1;
  weighted_gradient(std::span(&one, 1), work, gradient);
  return value;
}

void Tape::sweep_along(const Vector& x, const Vector& direction, Workspace& work) const {
  const std::size_t first = variables_ + constants_.size();
  work.dual_values.resize(first + steps_.size());
  Dual* values = work.dual_values.data();
  for (std::size_t i = 0; i < variables_; ++i) {
    values[i] = {x[static_cast<Index>(i)], direction[static_cast<Index>(i)]};
  }
  for (std::size_t i = 0; i < constants_.size(); ++i) values[variables_ + i] = {constants_[i], 0};
  sweep_forward<Dual>(runs_, steps_.data(), first, values);
}

void Tape::jacobian_times(const Vector& x, const Vector& direction, Workspace& work, Vector& product) const {
  sweep_along(x, direction, work);
  product.resize(outputs());
  for (std::size_t k = 0; k < outputs_.size(); ++k)
    product[static_cast<Index>(k)] = work.dual_values[outputs_[k]].change;
}

void Tape::hessian_times(const Vector& x, std::span<const double> weights, const Vector& direction, Workspace& work,
                         Vector& product) const {
  sweep_along(x, direction, work);
  const std::size_t slots = work.dual_values.size();
  work.dual_adjoints.assign(slots, Dual());
  const Dual* values = work.dual_values.data();
  Dual* adjoints = work.dual_adjoints.data();
  for (std::size_t k = 0; k < weights.size(); ++k) adjoints[outputs_[k]].value += weights[k];
  sweep_backward<Dual>(runs_, steps_.data() + steps_.size(), slots, values, adjoints);
  product.resize(dimension());
  for (std::size_t i = 0; i < variables_; ++i) product[static_cast<Index>(i)] = adjoints[i].change;
}

void Tape::hessian(const Vector& x, std::span<const double> weights, Workspace& work, Matrix& hessian) const {
  const Index n = dimension();
  hessian.resize(n, n);
  work.direction.setZero(n);
  for (Index j = 0; j < n; ++j) {
    work.direction[j] = 1;
    hessian_times(x, weights, work.direction, work, work.product);
    work.direction[j] = 0;
    hessian.col(j) = work.product;
  }
  symmetrize(hessian);
}

} // namespace tanzen
