#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen::methods {

/// Linear models about a point: what is to be minimized, and the rows with what is left to their limits.
struct LinearPieces {
  Vector gradient;
  Matrix rows;         ///< a gradient a row
  Vector lower, upper; ///< of rows * step; infinite where there is no limit
  Vector least, most;  ///< of the step, by the bounds

  /// The largest violation of the linearized rows after a step.
  [[nodiscard]] double violation(const Vector& step) const;
};

/// The step within a ball about 0 that breaks the linearized rows least, and of those that do the one that lowers the
/// value most: the two stages of Powell, 1994, section 2. Found by projections onto the rows, each a quadratic program
/// of unit Hessian, along the paths of both stages: the step is as long as the radius, to a twentieth, or it is the end
/// of its path. Cost: some ten programs.
[[nodiscard]] Vector linear_step(const LinearPieces& pieces, double radius);

} // namespace tanzen::methods
