#pragma once

#include "tanzen/expression/expression.hpp"
#include "tanzen/interval/enclosure.hpp"

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace tanzen {

/// What is known of a function over a box besides its range.
struct BoxTraits {
  bool nowhere = false;  ///< no point of the box lies in the function's domain: there is no range
  bool partly = false;   ///< some point of it may lie outside
  bool at_edge = false;  ///< some point of it may lie on the domain's edge, with none of the domain beyond
  bool has_kink = false; ///< the slope may jump within; enclosures of slopes then hold all that lies between
  bool may_jump = false; ///< the value may jump within, or at its edges: enclosures of slopes say nothing

  /// Whether enclosures of slopes hold along every way through the box and a little beyond.
  [[nodiscard]] bool is_continuous() const { return !nowhere && !partly && !at_edge && !may_jump; }
  /// Whether those of second derivatives do.
  [[nodiscard]] bool is_smooth() const { return is_continuous() && !has_kink; }
};

/// Expressions evaluated over boxes by interval arithmetic: their ranges, gradients and Hessians are enclosed, whatever
/// rounding does on the way (Moore, Kearfott and Cloud, 2009, chapters 5 and 6). Gradients by one backward sweep for
/// each expression, Hessians forward. What is enclosed is an expression as it was written, in real numbers: the numbers
/// in it as the doubles that they are.
///
/// Immutable and safe to share between threads; each thread brings its own Workspace. Cost: a value is 2 to 5 plain
/// ones, a gradient as many plain gradients, a Hessian n^2 values. Nothing is allocated per box.
class IntervalTape {
 public:
  enum class Order { value, gradient, hessian };

  /// Memory of an evaluation, and what came out of the last one.
  struct Workspace {
    std::vector<Enclosure> values = {};
    std::vector<std::uint8_t> marks = {};  ///< of each slot, its traits
    std::vector<Enclosure> slopes = {};    ///< of each expression, n numbers
    std::vector<Enclosure> adjoints = {};  ///< of each slot, zero between sweeps
    std::vector<Enclosure> gradients = {}; ///< of each slot, n numbers
    std::vector<Enclosure> hessians = {};  ///< of each slot, the lower triangle by rows
    std::vector<Enclosure> left = {};      ///< of each slot, what a contraction leaves of its values
    std::vector<char> counts = {};         ///< whether the result has no value where the slot has none
  };

  /// What the expressions share is evaluated once.
  explicit IntervalTape(const Expressions& expressions);

  [[nodiscard]] Index dimension() const { return static_cast<Index>(variables_); }
  [[nodiscard]] Workspace workspace() const;

  [[nodiscard]] Index outputs() const { return static_cast<Index>(outputs_.size()); }

  /// Over a box of `dimension` intervals, none of them empty. Returns what is known of the first expression.
  BoxTraits evaluate(std::span<const Enclosure> box, Order order, Workspace& work) const;

  /// Of the last evaluation, by expression.
  [[nodiscard]] BoxTraits traits(const Workspace& work, Index output = 0) const;
  /// Empty where the function has no values in the box.
  [[nodiscard]] const Enclosure& value(const Workspace& work, Index output = 0) const {
    return work.values[slot_of(output)];
  }
  [[nodiscard]] const Enclosure& slope(Index i, const Workspace& work, Index output = 0) const {
    return work.slopes[static_cast<std::size_t>(output) * variables_ + static_cast<std::size_t>(i)];
  }
  [[nodiscard]] const Enclosure& bend(Index i, Index j, const Workspace& work, Index output = 0) const {
    return work
        .hessians[slot_of(output) * triangle_ + place_of(static_cast<std::size_t>(i), static_cast<std::size_t>(j))];
  }

  /// Narrows the box of the last evaluation to what can hold points where the expression has a value within `range`:
  /// each operation is undone from its result to its operands (forward-backward contraction: Benhamou, Goualard,
  /// Granvilliers and Puget, 1999). False where there are none. Cost: a value.
  [[nodiscard]] bool contract(const Enclosure& range, std::span<Enclosure> box, Workspace& work,
                              Index output = 0) const;

 private:
  struct Step {
    Operation operation;
    std::int32_t exponent = 0;             ///< of an integer power
    std::uint32_t a = 0, b = 0, c = 0;     ///< slots; those of operands that it does not have hold a number
    bool has_second = false;               ///< whether b counts: it is no condition, and the step has two operands
    bool moves_a = false, moves_b = false; ///< whether an operand is no number
    bool is_total = false;                 ///< whether nothing is ever to be told of it besides its range
  };

  /// Steps of one operation that need nothing of one another.
  struct Run {
    Operation operation;
    bool is_total;
    std::size_t first, last; ///< the steps from `first` to before `last`
  };

  [[nodiscard]] std::size_t slot_of(Index output) const { return outputs_[static_cast<std::size_t>(output)]; }
  [[nodiscard]] bool is_number(std::size_t slot) const { return slot >= variables_ && slot < first_; }
  static std::size_t place_of(std::size_t i, std::size_t j) {
    return i >= j ? i * (i + 1) / 2 + j : j * (j + 1) / 2 + i;
  }
  void add_steps(const Graph& graph, const std::vector<NodeId>& order, std::vector<std::size_t>& slots);
  [[nodiscard]] Step step_of(const Graph& graph, const Node& node, const std::vector<std::size_t>& slots) const;
  void find_values(Workspace& work) const;
  void find_slopes(std::size_t output, Workspace& work) const;
  void hand_down(const Step& step, std::size_t slot, const Enclosure& weight, Workspace& work) const;
  void find_hessians(Workspace& work) const;
  void find_derivatives(const Step& step, std::size_t slot, Workspace& work) const;

  std::size_t variables_, triangle_;
  std::vector<double> constants_;
  std::vector<Step> steps_;
  std::vector<Run> runs_;
  std::size_t first_ = 0;            ///< slot of the first step
  std::vector<std::size_t> outputs_; ///< slots of the results
};

} // namespace tanzen
