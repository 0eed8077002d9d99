#include "tanzen/interval/interval_tape.hpp"

#include "operation_slopes.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace tanzen {
namespace {

using intervals::everything;
using intervals::infinity;
using intervals::nothing;

bool is_half(double x) {
  return std::abs(x - std::trunc(x)) == 0.5;
}

double sign_of_number(double x) {
  return static_cast<double>((x > 0) - (x < 0));
}

} // namespace

IntervalTape::IntervalTape(const Expressions& expressions)
    : variables_(static_cast<std::size_t>(expressions.dimension())), triangle_(variables_ * (variables_ + 1) / 2) {
  const Graph& graph = expressions.graph();
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
  std::vector<std::size_t> slots(graph.size(), 0);
  for (std::size_t i = 0; i < variables_; ++i) slots[i] = i;
  for (std::size_t k = variables_; k < graph.size(); ++k) {
    const Node& node = graph.node(static_cast<NodeId>(k));
    if (needed[k] == 0 || !node.is_constant()) continue;
    slots[k] = variables_ + constants_.size();
    constants_.push_back(node.constant());
  }
  first_ = variables_ + constants_.size();
  for (std::size_t k = variables_; k < graph.size(); ++k) {
    const Node& node = graph.node(static_cast<NodeId>(k));
    if (needed[k] == 0 || node.is_constant()) continue;
    const int operands = operand_count(node.operation);
    Step step{node.operation};
    if (operands > 0) step.a = slots[node.a];
    if (operands > 1) step.b = slots[node.b];
    if (operands > 2) step.c = slots[node.c];
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
    slots[k] = first_ + steps_.size();
    steps_.push_back(step);
  }
  for (const NodeId root : expressions.roots()) outputs_.push_back(slots[root]);
}

IntervalTape::Workspace IntervalTape::workspace() const {
  Workspace work;
  const std::size_t slots = first_ + steps_.size();
  work.values.resize(slots);
  work.traits.resize(slots);
  for (std::size_t k = 0; k < constants_.size(); ++k) work.values[variables_ + k] = constants_[k];
  return work;
}

BoxTraits IntervalTape::evaluate(std::span<const Enclosure> box, Order order, Workspace& work) const {
  assert(box.size() == variables_);
  const std::size_t slots = first_ + steps_.size();
  std::copy(box.begin(), box.end(), work.values.begin());
  if (order != Order::value && work.gradients.size() != slots * variables_) {
    work.gradients.assign(slots * variables_, 0);
    for (std::size_t i = 0; i < variables_; ++i) work.gradients[i * variables_ + i] = 1;
  }
  if (order == Order::hessian && work.hessians.size() != slots * triangle_) work.hessians.assign(slots * triangle_, 0);
  for (std::size_t k = 0; k < steps_.size(); ++k) {
    const std::size_t slot = first_ + k;
    find_value(steps_[k], slot, work);
    if (order != Order::value && !work.traits[slot].nowhere) find_derivatives(steps_[k], slot, order, work);
  }
  return traits(work);
}

void IntervalTape::find_value(const Step& step, std::size_t slot, Workspace& work) const {
  const int operands = operand_count(step.operation == Operation::integer_power ? Operation::square : step.operation);
  const Enclosure &a = work.values[step.a], &b = work.values[step.b], &c = work.values[step.c];
  const BoxTraits none;
  const BoxTraits &of_a = operands > 0 ? work.traits[step.a] : none, &of_b = operands > 1 ? work.traits[step.b] : none;
  Enclosure& value = work.values[slot];
  BoxTraits& traits = work.traits[slot];
  traits = {.nowhere = of_a.nowhere || of_b.nowhere,
            .partly = of_a.partly || of_b.partly,
            .at_edge = of_a.at_edge || of_b.at_edge,
            .has_kink = of_a.has_kink || of_b.has_kink,
            .may_jump = of_a.may_jump || of_b.may_jump};
  const bool is_comparison = step.operation == Operation::less || step.operation == Operation::less_equal ||
                             step.operation == Operation::equal;
  if (is_comparison) {
    // Where an operand has no value it does not hold.
    traits.nowhere = false;
    const bool may_fail = traits.partly || of_a.nowhere || of_b.nowhere;
    traits.may_jump = traits.may_jump || traits.partly || traits.at_edge;
    traits.partly = traits.at_edge = false;
    bool always = false, never = of_a.nowhere || of_b.nowhere;
    if (!never && step.operation == Operation::less) {
      always = a.upper < b.lower;
      never = a.lower >= b.upper;
    } else if (!never && step.operation == Operation::less_equal) {
      always = a.upper <= b.lower;
      never = a.lower > b.upper;
    } else if (!never) {
      always = a.is_point() && b.is_point() && a.lower == b.lower;
      never = common(a, b).is_empty();
    }
    value = always && !may_fail ? Enclosure(1) : never ? Enclosure(0) : Enclosure(0, 1);
    // Where the ends meet, a little beyond may be otherwise.
    const bool may_turn = !of_a.nowhere && !of_b.nowhere && !common(a, b).is_empty();
    traits.may_jump = traits.may_jump || !value.is_point() || may_turn;
    return;
  }
  if (step.operation == Operation::select) {
    const BoxTraits& of_c = work.traits[step.c];
    const bool holds = !of_a.nowhere && !of_a.partly && !a.contains(0), fails = !of_a.nowhere && a == Enclosure(0);
    if (holds || (fails && !of_a.partly)) {
      traits = holds ? of_b : of_c;
      traits.may_jump = traits.may_jump || of_a.may_jump;
      value = holds ? b : c;
      return;
    }
    traits = {.nowhere = of_b.nowhere && of_c.nowhere,
              .partly = of_b.partly || of_c.partly || of_b.nowhere || of_c.nowhere || of_a.partly,
              .at_edge = of_b.at_edge || of_c.at_edge || of_a.at_edge,
              .has_kink = true,
              .may_jump = true};
    value = of_b.nowhere ? c : of_c.nowhere ? b : hull(b, c);
    return;
  }
  if (traits.nowhere) {
    value = nothing;
    return;
  }
  const auto restrict_to = [&](const Enclosure& domain) {
    if (a.lower < domain.lower || a.upper > domain.upper) traits.partly = true;
    if (a.lower <= domain.lower || a.upper >= domain.upper) traits.at_edge = true;
    if (common(a, domain).is_empty()) traits.nowhere = true;
  };
  switch (step.operation) {
  case Operation::negate: value = -a; break;
  case Operation::absolute:
    value = abs(a);
    if (a.contains(0)) traits.has_kink = true; // at an end too: the slope on the other side counts
    break;
  case Operation::sign:
    value = {sign_of_number(a.lower), sign_of_number(a.upper)};
    if (a.contains(0)) traits.may_jump = true;
    break;
  case Operation::floor:
    value = {std::floor(a.lower), std::floor(a.upper)};
    if (!value.is_point() || a.lower == value.lower) traits.may_jump = true;
    break;
  case Operation::ceil:
    value = {std::ceil(a.lower), std::ceil(a.upper)};
    if (!value.is_point() || a.upper == value.upper) traits.may_jump = true;
    break;
  case Operation::round:
    value = {std::round(a.lower), std::round(a.upper)};
    if (!value.is_point() || is_half(a.lower) || is_half(a.upper)) traits.may_jump = true;
    break;
  case Operation::square_root:
    restrict_to({0, infinity});
    value = sqrt(a);
    if (a.lower <= 0) traits.has_kink = true; // its slope has no bound
    break;
  case Operation::cube_root:
    value = cbrt(a);
    if (a.contains(0)) traits.has_kink = true;
    break;
  case Operation::exp: value = exp(a); break;
  case Operation::log:
  case Operation::log2:
  case Operation::log10:
    value = step.operation == Operation::log ? log(a) : step.operation == Operation::log2 ? log2(a) : log10(a);
    if (a.lower <= 0) traits.partly = true;
    if (a.upper <= 0) traits.nowhere = true;
    break;
  case Operation::sin: value = sin(a); break;
  case Operation::cos: value = cos(a); break;
  case Operation::tan:
    value = tan(a);
    if (value == everything) traits.partly = traits.may_jump = true;
    break;
  case Operation::asin:
    restrict_to({-1, 1});
    value = asin(a);
    if (a.lower <= -1 || a.upper >= 1) traits.has_kink = true;
    break;
  case Operation::acos:
    restrict_to({-1, 1});
    value = acos(a);
    if (a.lower <= -1 || a.upper >= 1) traits.has_kink = true;
    break;
  case Operation::atan: value = atan(a); break;
  case Operation::sinh: value = sinh(a); break;
  case Operation::cosh: value = cosh(a); break;
  case Operation::tanh: value = tanh(a); break;
  case Operation::square: value = square(a); break;
  case Operation::reciprocal:
  case Operation::divide: {
    const bool is_reciprocal = step.operation == Operation::reciprocal;
    const Enclosure& divisor = is_reciprocal ? a : b;
    value = is_reciprocal ? Enclosure(1) / a : a / b;
    if (divisor.contains(0)) traits.partly = traits.may_jump = true;
    if (divisor == Enclosure(0)) traits.nowhere = true;
    break;
  }
  case Operation::integer_power:
    value = power(a, step.exponent);
    if (step.exponent < 0 && a.contains(0)) traits.partly = traits.may_jump = true;
    if (step.exponent < 0 && a == Enclosure(0)) traits.nowhere = true;
    break;
  case Operation::add: value = a + b; break;
  case Operation::subtract: value = step.a == step.b ? Enclosure(0) : a - b; break;
  case Operation::multiply: value = step.a == step.b ? square(a) : a * b; break;
  case Operation::power: {
    value = power(a, b);
    // A negative base has values at whole exponents alone: with another operand than a number nothing is said of them.
    if (a.lower < 0) {
      traits.partly = traits.may_jump = true;
      if (!b.is_point()) value = everything;
      if (a.upper < 0) {
        value = everything;
        traits.nowhere = b.is_point() && b.lower != std::round(b.lower);
      }
    }
    if (a.contains(0)) {
      traits.has_kink = traits.at_edge = true;
      if (b.lower <= 0) traits.partly = traits.may_jump = true;
    }
    break;
  }
  case Operation::atan2:
    value = atan2(a, b);
    if (b.lower <= 0 && a.contains(0)) traits.may_jump = true;
    break;
  case Operation::minimum:
  case Operation::maximum:
    value = step.operation == Operation::minimum ? min(a, b) : max(a, b);
    if (!common(a, b).is_empty()) traits.has_kink = true;
    break;
  case Operation::hypot:
    value = hypot(a, b);
    if (a.contains(0) && b.contains(0)) traits.has_kink = true;
    break;
  default: value = everything; traits.may_jump = true;
  }
  if (traits.nowhere) value = nothing;
  // An infinity minus another is no number: then nothing is known of where it would be one.
  if (std::isnan(value.lower) || std::isnan(value.upper)) value = everything;
}

void IntervalTape::find_derivatives(const Step& step, std::size_t slot, Order order, Workspace& work) const {
  const std::size_t n = variables_;
  Enclosure* gradient = &work.gradients[slot * n];
  Enclosure* hessian = order == Order::hessian ? &work.hessians[slot * triangle_] : nullptr;
  const bool has_second = operand_count(step.operation) > 1 && step.operation != Operation::integer_power;
  const Enclosure* by_a = &work.gradients[step.a * n];
  const Enclosure* by_b = &work.gradients[step.b * n];
  if (step.operation == Operation::select) {
    const Enclosure& condition = work.values[step.a];
    const std::size_t taken = condition.contains(0) ? step.c : step.b; // where it is not decided slopes say nothing
    std::copy_n(&work.gradients[taken * n], n, gradient);
    if (hessian != nullptr) std::copy_n(&work.hessians[taken * triangle_], triangle_, hessian);
    return;
  }
  Slopes s = slopes_of(step.operation, step.exponent, work.values[step.a], work.values[step.b], work.values[slot]);
  if (step.a == step.b && step.operation == Operation::multiply) { // a square, whose operands move together
    s.by_a = Enclosure(2) * work.values[step.a];
    s.by_aa = 2;
    s.by_b = s.by_ab = 0;
  }
  if (!has_second) s.by_b = s.by_ab = s.by_bb = 0;
  const auto product = [](const Enclosure& x, const Enclosure& y) {
    const Enclosure zero = 0;
    return x == zero || y == zero ? zero : x * y;
  };
  for (std::size_t i = 0; i < n; ++i) gradient[i] = product(s.by_a, by_a[i]) + product(s.by_b, by_b[i]);
  if (hessian == nullptr) return;
  const Enclosure* of_a = &work.hessians[step.a * triangle_];
  const Enclosure* of_b = &work.hessians[step.b * triangle_];
  std::size_t place = 0;
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = 0; j <= i; ++j, ++place) {
      const Enclosure aa = i == j ? square(by_a[i]) : product(by_a[i], by_a[j]);
      Enclosure sum = product(s.by_a, of_a[place]) + product(s.by_aa, aa);
      if (has_second) {
        const Enclosure bb = i == j ? square(by_b[i]) : product(by_b[i], by_b[j]);
        const Enclosure ab = product(by_a[i], by_b[j]) + product(by_a[j], by_b[i]);
        sum = sum + product(s.by_b, of_b[place]) + product(s.by_bb, bb) + product(s.by_ab, ab);
      }
      hessian[place] = sum;
    }
  }
}

} // namespace tanzen
