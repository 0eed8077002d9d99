#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen::methods {

/// Numbers strictly between limits, some of them infinite, with the multipliers of those limits: what an interior-point
/// method keeps of the variables, and of the slacks. Equation numbers are those of Wächter and Biegler, 2006.
class Barrier {
 public:
  Barrier(Vector lower, Vector upper);

  /// Moves what lies near a limit, or beyond it, inside (section 3.6).
  void push_inside(Vector& at) const;

  /// Minus the sum of the logarithms of the distances.
  [[nodiscard]] double value(const Vector& at) const;
  /// Its gradient.
  [[nodiscard]] Vector slope(const Vector& at) const;
  /// The diagonal that the multipliers add to the Hessian (equation 13).
  [[nodiscard]] Vector curvature(const Vector& at) const;
  /// The square of each one's distance to its nearest limit, at most 1.
  [[nodiscard]] Vector squared_room(const Vector& at) const;
  /// What the multipliers add to the Lagrangian's gradient.
  [[nodiscard]] Vector pull() const { return upper_pull_ - lower_pull_; }
  /// The largest difference of a product of multiplier and distance from `barrier`.
  [[nodiscard]] double misfit(const Vector& at, double barrier) const;

  /// The longest part of a step that leaves `part` of each distance uncovered (equation 15).
  [[nodiscard]] double longest(const Vector& at, const Vector& step, double part) const;
  /// Moves the multipliers along their own step, as far as they stay positive (equation 12), before `at` moves.
  void move(const Vector& at, const Vector& step, double barrier, double part);
  /// Keeps the multipliers within reach of the primal ones (equation 16).
  void keep_near(const Vector& at, double barrier);
  /// Begins anew with all multipliers at 1.
  void reset();

 private:
  [[nodiscard]] bool has_lower(Index i) const;
  [[nodiscard]] bool has_upper(Index i) const;

  Vector lower_, upper_;
  Vector lower_pull_, upper_pull_; ///< multipliers, at least 0; 0 where there is no limit
};

} // namespace tanzen::methods
