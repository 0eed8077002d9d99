#pragma once

#include "tanzen/expression/expression.hpp"

#include <vector>

namespace tanzen {

/// An expression laid out for values at many points: each step is done for a block of points before the next one,
/// so that the looking-up is paid once a block and the arithmetic runs on several points at a time. A value has the
/// same bits as one from Tape.
///
/// Steps keep the order of the expression, and a place is used anew as soon as nothing needs it, so that a block stays
/// in the nearest cache. Immutable and safe to share between threads; each brings its own Workspace, of
/// 8 * width bytes for each variable, constant and place.
class BlockTape {
 public:
  /// Points a block.
  static constexpr Index width = 64;

  struct Workspace {
    std::vector<double> lanes; ///< `width` numbers a slot
  };

  explicit BlockTape(const Expression& expression);

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

 private:
  std::size_t variables_;
  std::size_t slots_ = 0;
  std::vector<double> constants_;
  std::vector<Step> steps_;
  NodeId output_ = 0;
};

} // namespace tanzen
