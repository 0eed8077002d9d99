#pragma once

#include "tanzen/expression/expression.hpp"

#include <array>
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
    std::vector<Lanes> slots;
  };

  explicit BlockTape(const Expression& expression);
  BlockTape(const Graph& graph, std::span<const NodeId> outputs);

  [[nodiscard]] Index dimension() const { return static_cast<Index>(variables_); }
  /// Places that hold results: at most as many as values are needed at once.
  [[nodiscard]] std::size_t places() const { return slots_ - variables_ - constants_.size(); }
  [[nodiscard]] Workspace workspace() const;

  struct Step {
    Operation operation;
    std::int32_t exponent;
    NodeId a, b, c, result; ///< slots
  };

  /// The values at the columns of `points`, which has `dimension` rows. `values` is resized where it must be.
  void evaluate(const Matrix& points, Workspace& work, Vector& values) const;

  /// All outputs at the columns of `points`: a row an output, a column a point.
  void evaluate_all(const Matrix& points, Workspace& work, Matrix& values) const;

  /// The first output at many points that share their first coordinates: point i is `shared`, then row i of `rows`.
  void evaluate_rows(const Vector& shared, const Matrix& rows, Workspace& work, Vector& values) const;

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
