#pragma once

#include "tanzen/expression/expression.hpp"

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace tanzen {

/// An expression, or several of the same variables, laid out for values at many points: each step is done for a block
/// of points before the next one, so that the looking-up is paid once a block and the arithmetic runs on several points
/// at a time. A value has the same bits as one from Tape.
///
/// Steps keep the order of the expression, and a place is used anew as soon as nothing needs it, so that a block stays
/// in the nearest cache. Immutable and safe to share between threads; each brings its own Workspace, of
/// 8 * width bytes for each variable, constant and place.
class BlockTape {
 public:
  /// Points a block.
  static constexpr Index width = 64;

  /// The numbers of one slot; on a cache line of its own, so that no vector load straddles two.
  struct alignas(64) Lanes {
    std::array<double, width> numbers;
  };
  struct Workspace {
    std::vector<Lanes> slots = {};
    std::vector<Lanes> adjoints = {}; ///< grown at the first backward sweep
  };

  explicit BlockTape(const Expression& expression);
  /// With slopes by the first `slopes_by` variables every result keeps its place.
  BlockTape(const Graph& graph, std::span<const NodeId> outputs, Index slopes_by = 0);

  [[nodiscard]] Index dimension() const { return static_cast<Index>(variables_); }
  /// Places that hold results: at most as many as values are needed at once.
  [[nodiscard]] std::size_t places() const { return slots_ - variables_ - constants_.size(); }
  [[nodiscard]] Workspace workspace() const;

  struct Step {
    Operation operation;
    bool first_matters = false, second_matters = false; ///< whether the operands hang on a variable that slopes are by
    std::int32_t exponent;
    NodeId a, b, c, result; ///< slots
  };

  /// The values at the columns of `points`, which has `dimension` rows. `values` is resized where it must be.
  void evaluate(const Matrix& points, Workspace& work, Vector& values) const;

  /// All outputs at the columns of `points`: a row an output, a column a point.
  void evaluate_all(const Matrix& points, Workspace& work, Matrix& values) const;

  /// All outputs at `count` points, at most `width`, that share their first coordinates: point i is `shared`, then row
  /// first + i of `rows`. They stay in the workspace, for `output` and `sweep_back`.
  void sweep_rows(const Vector& shared, const Matrix& rows, Index first, Index count, Workspace& work) const;

  using LaneNumbers = Eigen::Map<const Eigen::Array<double, width, 1>, Eigen::Aligned64>;
  /// The k-th output at the points of the last sweep; beyond their count it repeats the first one.
  [[nodiscard]] LaneNumbers output(Index k, const Workspace& work) const {
    return LaneNumbers(work.slots[outputs_[static_cast<std::size_t>(k)]].numbers.data());
  }

  /// How sum over k of weights(k, lane) * output k changes with each variable, at the points of the last sweep (reverse
  /// mode), of those that slopes are by. Cost: some two sweeps, whatever the number of variables.
  void sweep_back(const Eigen::Ref<const Eigen::Array<double, Eigen::Dynamic, width, Eigen::RowMajor>>& weights,
                  Workspace& work) const;
  [[nodiscard]] LaneNumbers slope(Index variable, const Workspace& work) const {
    return LaneNumbers(work.adjoints[static_cast<std::size_t>(variable)].numbers.data());
  }

 private:
  void fill(const Matrix& points, Index first, Index count, Workspace& work) const;
  void run(Workspace& work) const;

  std::size_t variables_;
  std::size_t slots_ = 0;
  std::vector<double> constants_;
  std::vector<Step> steps_;
  std::vector<NodeId> outputs_; ///< slots
};

} // namespace tanzen
