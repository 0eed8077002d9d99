#include "tanzen/interval/interval_tape.hpp"

#include "operation_ranges.hpp"
#include "operation_slopes.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace tanzen {
namespace {

using intervals::everything;

/// Zero where a factor is, however large the other.
Enclosure product(const Enclosure& x, const Enclosure& y) {
  constexpr Enclosure zero = 0;
  return x == zero || y == zero ? zero : x * y;
}

/// An infinity minus another is no number: then nothing is known of where it would be one.
Enclosure number_or_everything(const Enclosure& found) {
  return found.lower <= found.upper ? found : everything;
}

std::vector<char> needed_nodes(const Graph& graph, const Expressions& expressions) {
  std::vector<char> needed(graph.size(), 0);
  for (const NodeId root : expressions.roots()) needed[root] = 1;
  for (std::size_t k = graph.size(); k-- > 0;) {
    if (needed[k] == 0) continue;
    const Node& node = graph.node(static_cast<NodeId>(k));
    const int operands = operand_count(node.operation);
    if (operands > 0) needed[node.a] = 1;
    if (operands > 1) needed[node.b] = 1;
    if (operands > 2) needed[node.c] = 1;
  }
  return needed;
}

/// The operations needed, those first that need no other, and so on; of these the same ones side by side.
std::vector<NodeId> by_levels(const Graph& graph, const std::vector<char>& needed) {
  std::vector<std::uint32_t> levels(graph.size(), 0);
  std::vector<NodeId> order;
  for (std::size_t k = graph.variables(); k < graph.size(); ++k) {
    const auto id = static_cast<NodeId>(k);
    const Node& node = graph.node(id);
    if (needed[k] == 0 || node.is_constant()) continue;
    const int operands = operand_count(node.operation);
    std::uint32_t below = 0;
    if (operands > 0) below = std::max(below, levels[node.a]);
    if (operands > 1) below = std::max(below, levels[node.b]);
    if (operands > 2) below = std::max(below, levels[node.c]);
    levels[k] = below + 1;
    order.push_back(id);
  }
  std::ranges::stable_sort(
      order, {}, [&](NodeId id) { return std::pair(levels[id], static_cast<int>(graph.node(id).operation)); });
  return order;
}

} // namespace

IntervalTape::IntervalTape(const Expressions& expressions)
    : variables_(static_cast<std::size_t>(expressions.dimension())), triangle_(variables_ * (variables_ + 1) / 2) {
  const Graph& graph = expressions.graph();
  const std::vector<char> needed = needed_nodes(graph, expressions);
  std::vector<std::size_t> slots(graph.size(), 0);
  for (std::size_t i = 0; i < variables_; ++i) slots[i] = i;
  for (std::size_t k = variables_; k < graph.size(); ++k) {
    const Node& node = graph.node(static_cast<NodeId>(k));
    if (needed[k] == 0 || !node.is_constant()) continue;
    slots[k] = variables_ + constants_.size();
    constants_.push_back(node.constant());
  }
  constants_.push_back(0); // what steps have for operands that they do not have
  first_ = variables_ + constants_.size();
  add_steps(graph, by_levels(graph, needed), slots);
  for (const NodeId root : expressions.roots()) outputs_.push_back(slots[root]);
}

void IntervalTape::add_steps(const Graph& graph, const std::vector<NodeId>& order, std::vector<std::size_t>& slots) {
  for (const NodeId id : order) {
    const Step step = step_of(graph, graph.node(id), slots);
    slots[id] = first_ + steps_.size();
    const auto is_of_run = [&](std::uint32_t slot) { return !runs_.empty() && slot >= first_ + runs_.back().first; };
    if (runs_.empty() || runs_.back().operation != step.operation || runs_.back().is_total != step.is_total ||
        is_of_run(step.a) || is_of_run(step.b) || is_of_run(step.c))
      runs_.push_back({step.operation, step.is_total, steps_.size(), steps_.size()});
    steps_.push_back(step);
    runs_.back().last = steps_.size();
  }
}

IntervalTape::Step IntervalTape::step_of(const Graph& graph, const Node& node,
                                         const std::vector<std::size_t>& slots) const {
  const int operands = operand_count(node.operation);
  const auto none = static_cast<std::uint32_t>(first_ - 1);
  Step step{.operation = node.operation, .a = none, .b = none, .c = none};
  if (operands > 0) step.a = static_cast<std::uint32_t>(slots[node.a]);
  if (operands > 1) step.b = static_cast<std::uint32_t>(slots[node.b]);
  if (operands > 2) step.c = static_cast<std::uint32_t>(slots[node.c]);
  if (node.operation == Operation::power && graph.node(node.b).is_constant()) {
    const double exponent = graph.node(node.b).constant();
    constexpr double most = 1e6;
    if (exponent == 2) {
      step.operation = Operation::square;
    } else if (exponent == std::round(exponent) && std::abs(exponent) <= most) {
      step.exponent = static_cast<std::int32_t>(exponent);
      step.operation = Operation::integer_power;
    }
  }
  if (step.operation == Operation::multiply && step.a == step.b) step.operation = Operation::square;
  step.has_second = operand_count(step.operation) == 2;
  if (!step.has_second && step.operation != Operation::select) step.b = none;
  step.moves_a = !is_number(step.a);
  step.moves_b = step.has_second && !is_number(step.b);
  const auto is_total = [&](std::uint32_t slot) { return slot < first_ || steps_[slot - first_].is_total; };
  step.is_total = has_no_marks(step.operation, step.exponent) && is_total(step.a) && is_total(step.b);
  return step;
}

IntervalTape::Workspace IntervalTape::workspace() const {
  Workspace work;
  const std::size_t slots = first_ + steps_.size();
  work.values.resize(slots);
  work.marks.resize(slots);
  work.adjoints.assign(slots, 0);
  work.slopes.resize(outputs_.size() * variables_);
  for (std::size_t k = 0; k < constants_.size(); ++k) work.values[variables_ + k] = constants_[k];
  return work;
}

BoxTraits IntervalTape::traits(const Workspace& work, Index output) const {
  const std::uint8_t found = work.marks[slot_of(output)];
  return {.nowhere = (found & marks::nowhere) != 0,
          .partly = (found & marks::partly) != 0,
          .at_edge = (found & marks::at_edge) != 0,
          .has_kink = (found & marks::kink) != 0,
          .may_jump = (found & marks::jump) != 0};
}

BoxTraits IntervalTape::evaluate(std::span<const Enclosure> box, Order order, Workspace& work) const {
  assert(box.size() == variables_);
  std::copy(box.begin(), box.end(), work.values.begin());
  find_values(work);
  if (order == Order::gradient) {
    for (std::size_t k = 0; k < outputs_.size(); ++k) find_slopes(k, work);
  } else if (order == Order::hessian) {
    find_hessians(work);
  }
  return traits(work);
}

void IntervalTape::find_values(Workspace& work) const {
  Enclosure* values = work.values.data();
  std::uint8_t* of = work.marks.data();
  for (const Run& run : runs_) {
    const auto by = [&](auto&& arithmetic) {
      for (std::size_t k = run.first; k < run.last; ++k)
        values[first_ + k] = arithmetic(values[steps_[k].a], values[steps_[k].b]);
    };
    switch (run.is_total ? run.operation : Operation::select) {
    case Operation::add: by([](const Enclosure& a, const Enclosure& b) { return number_or_everything(a + b); }); break;
    case Operation::subtract:
      by([](const Enclosure& a, const Enclosure& b) { return &a == &b ? Enclosure(0) : number_or_everything(a - b); });
      break;
    case Operation::multiply: by([](const Enclosure& a, const Enclosure& b) { return a * b; }); break;
    case Operation::square: by([](const Enclosure& a, const Enclosure&) { return square(a); }); break;
    case Operation::negate: by([](const Enclosure& a, const Enclosure&) { return -a; }); break;
    default:
      for (std::size_t k = run.first; k < run.last; ++k) {
        const Step& step = steps_[k];
        const std::size_t slot = first_ + k;
        const auto at = [&](std::uint32_t operand) { return Operand{values[operand], of[operand]}; };
        find_range(step.operation, step.exponent, at(step.a), at(step.b), at(step.c), {values[slot], of[slot]});
        if ((of[slot] & marks::nowhere) == 0) values[slot] = number_or_everything(values[slot]);
      }
    }
  }
}

/// By one sweep backward over what the expression consists of.
void IntervalTape::find_slopes(std::size_t output, Workspace& work) const {
  const std::size_t last = outputs_[output];
  Enclosure* adjoints = work.adjoints.data();
  constexpr Enclosure zero = 0;
  adjoints[last] = 1;
  for (std::size_t slot = last + 1; slot-- > first_;) {
    const Enclosure weight = adjoints[slot];
    if (weight == zero) continue;
    adjoints[slot] = zero;
    if ((work.marks[slot] & marks::nowhere) == 0) hand_down(steps_[slot - first_], slot, weight, work);
  }
  Enclosure* slopes = &work.slopes[output * variables_];
  std::copy_n(adjoints, variables_, slopes);
  std::fill_n(adjoints, first_, zero);
}

/// To the adjoints of the operands what a step's adjoint gives them.
void IntervalTape::hand_down(const Step& step, std::size_t slot, const Enclosure& weight, Workspace& work) const {
  Enclosure* adjoints = work.adjoints.data();
  const Enclosure* values = work.values.data();
  const auto hand = [](Enclosure& adjoint, const Enclosure& more) {
    adjoint = adjoint == Enclosure(0) ? more : adjoint + more;
  };
  switch (step.operation) {
  case Operation::add:
    if (step.moves_a) hand(adjoints[step.a], weight);
    if (step.moves_b) hand(adjoints[step.b], weight);
    return;
  case Operation::subtract:
    if (step.moves_a) hand(adjoints[step.a], weight);
    if (step.moves_b) hand(adjoints[step.b], -weight);
    return;
  case Operation::negate: hand(adjoints[step.a], -weight); return;
  case Operation::multiply:
    if (step.moves_a) hand(adjoints[step.a], product(weight, values[step.b]));
    if (step.moves_b) hand(adjoints[step.b], product(weight, values[step.a]));
    return;
  case Operation::square: {
    const Enclosure& a = values[step.a];
    hand(adjoints[step.a], product(weight, {2 * a.lower, 2 * a.upper}));
    return;
  }
  case Operation::select: // where it is not decided slopes say nothing
    hand(adjoints[values[step.a].contains(0) ? step.c : step.b], weight);
    return;
  default: break;
  }
  const Slopes s = slopes_of(step.operation, step.exponent, values[step.a], values[step.b], values[slot], step.moves_b);
  if (step.moves_a) hand(adjoints[step.a], product(weight, s.by_a));
  if (step.moves_b) hand(adjoints[step.b], product(weight, s.by_b));
}

void IntervalTape::find_hessians(Workspace& work) const {
  const std::size_t slots = first_ + steps_.size();
  if (work.gradients.empty()) {
    work.gradients.assign(slots * variables_, 0);
    for (std::size_t i = 0; i < variables_; ++i) work.gradients[i * variables_ + i] = 1;
    work.hessians.assign(slots * triangle_, 0);
  }
  for (std::size_t slot = first_; slot < slots; ++slot) {
    if ((work.marks[slot] & marks::nowhere) == 0) find_derivatives(steps_[slot - first_], slot, work);
  }
  for (std::size_t k = 0; k < outputs_.size(); ++k)
    std::copy_n(&work.gradients[outputs_[k] * variables_], variables_, &work.slopes[k * variables_]);
}

void IntervalTape::find_derivatives(const Step& step, std::size_t slot, Workspace& work) const {
  const std::size_t n = variables_;
  Enclosure* gradient = &work.gradients[slot * n];
  Enclosure* hessian = &work.hessians[slot * triangle_];
  if (step.operation == Operation::select) {
    const std::size_t taken = work.values[step.a].contains(0) ? step.c : step.b; // as in `hand_down`
    std::copy_n(&work.gradients[taken * n], n, gradient);
    std::copy_n(&work.hessians[taken * triangle_], triangle_, hessian);
    return;
  }
  const Enclosure* by_a = &work.gradients[step.a * n];
  const Enclosure* by_b = &work.gradients[step.b * n];
  const Enclosure &a = work.values[step.a], &b = work.values[step.b], &value = work.values[slot];
  const Slopes s = slopes_of(step.operation, step.exponent, a, b, value, step.moves_b);
  const Bends second = bends_of(step.operation, step.exponent, a, b, value, step.moves_b);
  for (std::size_t i = 0; i < n; ++i) gradient[i] = product(s.by_a, by_a[i]) + product(s.by_b, by_b[i]);
  const Enclosure* of_a = &work.hessians[step.a * triangle_];
  const Enclosure* of_b = &work.hessians[step.b * triangle_];
  std::size_t place = 0;
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = 0; j <= i; ++j, ++place) {
      const Enclosure aa = i == j ? square(by_a[i]) : product(by_a[i], by_a[j]);
      Enclosure sum = product(s.by_a, of_a[place]) + product(second.by_aa, aa);
      if (step.has_second) {
        const Enclosure bb = i == j ? square(by_b[i]) : product(by_b[i], by_b[j]);
        const Enclosure ab = product(by_a[i], by_b[j]) + product(by_a[j], by_b[i]);
        sum = sum + product(s.by_b, of_b[place]) + product(second.by_bb, bb) + product(second.by_ab, ab);
      }
      hessian[place] = sum;
    }
  }
}

} // namespace tanzen
