#include "tanzen/expression/block_tape.hpp"

#include "scalar_rules.hpp"
#include "tape_plan.hpp"

#include <algorithm>
#include <cassert>

namespace tanzen {
namespace {

constexpr auto lanes_in_block = static_cast<std::size_t>(BlockTape::width);

/// Hands out places for results and takes them back.
class FreePlaces {
 public:
  explicit FreePlaces(std::size_t first) : next_(static_cast<NodeId>(first)) {}

  [[nodiscard]] NodeId take() {
    if (free_.empty()) return next_++;
    const NodeId place = free_.back();
    free_.pop_back();
    return place;
  }
  void give_back(NodeId place) { free_.push_back(place); }
  [[nodiscard]] std::size_t end() const { return next_; }

 private:
  std::vector<NodeId> free_;
  NodeId next_;
};

/// For each node the last node computed from it; itself where there is none.
std::vector<NodeId> last_users(const Graph& graph, const std::vector<bool>& needed) {
  std::vector<NodeId> last(graph.size());
  for (NodeId id = 0; id < graph.size(); ++id) {
    last[id] = id;
    if (!needed[id]) continue;
    for (const NodeId operand : NodeOperands(graph.node(id))) last[operand] = id;
  }
  return last;
}

/// `result` is no place of an operand, which lets the compiler take several points in one instruction.
template <Operation known>
[[gnu::always_inline]] inline void compute_lanes(double* __restrict result, const double* a, const double* b,
                                                 const double* c, std::int32_t exponent) {
  for (std::size_t lane = 0; lane < lanes_in_block; ++lane) {
    result[lane] = rules::value_of<known, double>(a[lane], b[lane], c[lane], exponent);
  }
}

/// Compiled for processors with and without the wider registers and chosen at run time; both give the same bits.
[[gnu::target_clones("avx2", "default")]] void evaluate_block(const BlockTape::Step* step, const BlockTape::Step* end,
                                                              double* lanes) {
  const auto at = [lanes](NodeId slot) {
    return static_cast<double*>(__builtin_assume_aligned(lanes + slot * lanes_in_block, alignof(BlockTape::Lanes)));
  };
  for (; step != end; ++step) {
    rules::visit(
        step->operation, [&]<Operation known>() __attribute__((always_inline)) {
          compute_lanes<known>(at(step->result), at(step->a), at(step->b), at(step->c), step->exponent);
        });
  }
}

/// What a step's result passes on to its operands. What does not matter passes on nothing, even where its own slope is
/// infinite or not a number.
template <Operation known>
[[gnu::always_inline]] inline void add_lane_adjoints(const double* value, const double* weight, const double* a,
                                                     const double* b, const BlockTape::Step& step, double* of_a,
                                                     double* of_b, double* of_c) {
  alignas(64) std::array<double, lanes_in_block> to_a{}, to_b{}, to_c{};
  const std::int32_t exponent = step.exponent;
  if (known == Operation::power && !(step.first_matters && step.second_matters)) {
    // The slope that nothing needs costs as much as the other.
    for (std::size_t lane = 0; lane < lanes_in_block; ++lane) {
      if (step.first_matters)
        to_a[lane] = weight[lane] * b[lane] * std::pow(a[lane], b[lane] - 1);
      else if (!(a[lane] == 0 && b[lane] > 0))
        to_b[lane] = weight[lane] * value[lane] * std::log(a[lane]);
    }
  } else
    for (std::size_t lane = 0; lane < lanes_in_block; ++lane)
      rules::add_adjoints<known, double>(value[lane], weight[lane], a[lane], b[lane], exponent, to_a[lane], to_b[lane],
                                         to_c[lane]);
  const auto add = [weight](double* adjoint, const std::array<double, lanes_in_block>& more) {
    for (std::size_t lane = 0; lane < lanes_in_block; ++lane) adjoint[lane] += weight[lane] != 0 ? more[lane] : 0;
  };
  add(of_a, to_a);
  if constexpr (rules::has_second<known>) add(of_b, to_b);
  if constexpr (rules::has_third<known>) add(of_c, to_c);
}

[[gnu::target_clones("avx2", "default")]] void
add_block_adjoints(const BlockTape::Step* begin, const BlockTape::Step* step, const double* values, double* adjoints) {
  const auto at = [](auto* lanes, NodeId slot) {
    return static_cast<decltype(lanes)>(
        __builtin_assume_aligned(lanes + slot * lanes_in_block, alignof(BlockTape::Lanes)));
  };
  while (step != begin) {
    --step;
    if (!step->first_matters && !step->second_matters && step->operation != Operation::select) continue;
    rules::visit(
        step->operation, [&]<Operation known>() __attribute__((always_inline)) {
          add_lane_adjoints<known>(at(values, step->result), at(adjoints, step->result), at(values, step->a),
                                   at(values, step->b), *step, at(adjoints, step->a), at(adjoints, step->b),
                                   at(adjoints, step->c));
        });
  }
}

} // namespace

BlockTape::BlockTape(const Expression& expression) : BlockTape(expression.graph(), std::array{expression.root()}) {}

BlockTape::BlockTape(const Graph& graph, std::span<const NodeId> outputs, Index slopes_by)
    : variables_(graph.variables()) {
  const std::vector<bool> needed = needed_nodes(graph, outputs);
  std::vector<NodeId> last_user = last_users(graph, needed);
  // What comes out is needed to the end.
  if (outputs.size() > 1)
    for (const NodeId output : outputs) last_user[output] = static_cast<NodeId>(graph.size());

  std::vector<NodeId> slot_of(graph.size(), 0);
  for (NodeId id = 0; id < graph.size(); ++id) {
    const Node& node = graph.node(id);
    if (node.operation == Operation::variable) slot_of[id] = node.variable();
    if (!needed[id] || !node.is_constant()) continue;
    slot_of[id] = static_cast<NodeId>(variables_ + constants_.size());
    constants_.push_back(node.constant());
  }

  // What hangs on no variable that slopes are by passes nothing on.
  std::vector<bool> matters(graph.size(), false);
  for (NodeId id = 0; id < graph.size(); ++id) {
    const Node& node = graph.node(id);
    matters[id] = node.operation == Operation::variable && static_cast<Index>(node.variable()) < slopes_by;
  }
  FreePlaces free(variables_ + constants_.size());
  for (NodeId id = 0; id < graph.size(); ++id) {
    const Node& node = graph.node(id);
    if (!needed[id] || !computes(node)) continue;
    const PlannedStep step = planned(graph, node);
    slot_of[id] = free.take();
    const NodeId a = slot_of[node.a];
    const NodeOperands operands(node);
    const bool has_second = operands.end() - operands.begin() > 1, has_third = operands.end() - operands.begin() > 2;
    matters[id] = std::ranges::any_of(operands, [&](NodeId operand) { return matters[operand]; });
    steps_.push_back({step.operation, matters[node.a], has_second && matters[node.b], step.exponent, a,
                      has_second ? slot_of[node.b] : a, has_third ? slot_of[node.c] : a, slot_of[id]});
    for (auto operand = operands.begin(); operand != operands.end() && slopes_by == 0; ++operand) {
      const bool repeated = std::find(operands.begin(), operand, *operand) != operand;
      if (!repeated && last_user[*operand] == id && computes(graph.node(*operand))) free.give_back(slot_of[*operand]);
    }
  }
  steps_.shrink_to_fit();
  slots_ = free.end();
  for (const NodeId output : outputs) outputs_.push_back(slot_of[output]);
}

BlockTape::Workspace BlockTape::workspace() const {
  Workspace work{std::vector<Lanes>(slots_), {}};
  auto place = work.slots.begin() + static_cast<std::ptrdiff_t>(variables_);
  for (const double constant : constants_) (place++)->numbers.fill(constant);
  return work;
}

namespace {

using LaneBlock =
    Eigen::Map<Eigen::Matrix<double, Eigen::Dynamic, BlockTape::width, Eigen::RowMajor>, Eigen::Aligned64>;

/// The numbers of slots that follow each other, a row a slot.
LaneBlock block_of(BlockTape::Workspace& work, Index slots) {
  return {work.slots.front().numbers.data(), slots, BlockTape::width};
}

} // namespace

void BlockTape::fill(const Matrix& points, Index first, Index count, Workspace& work) const {
  LaneBlock block = block_of(work, dimension());
  block.leftCols(count) = points.middleCols(first, count);
  // What the last block lacks repeats its first point.
  for (Index lane = count; lane < width; ++lane) block.col(lane) = points.col(first);
}

void BlockTape::run(Workspace& work) const {
  evaluate_block(steps_.data(), steps_.data() + steps_.size(), work.slots.front().numbers.data());
}

void BlockTape::evaluate(const Matrix& points, Workspace& work, Vector& values) const {
  assert(points.rows() == dimension());
  values.resize(points.cols());
  const Eigen::Map<const Vector> results(work.slots[outputs_.front()].numbers.data(), width);
  for (Index first = 0; first < points.cols(); first += width) {
    const Index count = std::min(width, points.cols() - first);
    fill(points, first, count, work);
    run(work);
    values.segment(first, count) = results.head(count);
  }
}

void BlockTape::evaluate_all(const Matrix& points, Workspace& work, Matrix& values) const {
  assert(points.rows() == dimension());
  values.resize(static_cast<Index>(outputs_.size()), points.cols());
  for (Index first = 0; first < points.cols(); first += width) {
    const Index count = std::min(width, points.cols() - first);
    fill(points, first, count, work);
    run(work);
    for (Index k = 0; k < values.rows(); ++k) {
      const Eigen::Map<const Vector> results(work.slots[outputs_[static_cast<std::size_t>(k)]].numbers.data(), width);
      values.row(k).segment(first, count) = results.head(count);
    }
  }
}

void BlockTape::sweep_rows(const Vector& shared, const Matrix& rows, Index first, Index count, Workspace& work) const {
  assert(shared.size() + rows.cols() == dimension());
  LaneBlock block = block_of(work, dimension());
  block.topRows(shared.size()).colwise() = shared;
  for (Index k = 0; k < rows.cols(); ++k) {
    block.row(shared.size() + k).head(count) = rows.col(k).segment(first, count);
    for (Index lane = count; lane < width; ++lane) block(shared.size() + k, lane) = rows(first, k);
  }
  run(work);
}

void BlockTape::sweep_back(
    const Eigen::Ref<const Eigen::Array<double, Eigen::Dynamic, width, Eigen::RowMajor>>& weights,
    Workspace& work) const {
  assert(static_cast<std::size_t>(weights.rows()) == outputs_.size());
  work.adjoints.assign(slots_, Lanes{});
  for (Index k = 0; k < weights.rows(); ++k) {
    Lanes& seeded = work.adjoints[outputs_[static_cast<std::size_t>(k)]];
    for (Index lane = 0; lane < width; ++lane) seeded.numbers[static_cast<std::size_t>(lane)] += weights(k, lane);
  }
  add_block_adjoints(steps_.data(), steps_.data() + steps_.size(), work.slots.front().numbers.data(),
                     work.adjoints.front().numbers.data());
}

} // namespace tanzen
