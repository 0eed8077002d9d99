#pragma once

#include "tanzen/search/evaluator.hpp"

namespace tanzen::methods {

/// Where a search along a ray ended.
struct RayMinimum {
  double step = 0;
  double value = 0;
  bool found = false; ///< false: the last trial is the longest step allowed, or trials ran out
  Index trials = 0;
};

/// Finds the first stationary point of the objective along `from + t * direction`, t in (0, longest], until the
/// slope is 1e-10 of its first value: brackets a change of sign of the slope, then closes in by secants kept inside the
/// bracket (the Illinois form of regula falsi; Dowell and Jarratt, 1971). On a quadratic the first secant is exact.
///
/// Holds work vectors: make one for a run. Cost: one value and one gradient a trial; allocates nothing after
/// the first.
class RaySearch {
 public:
  /// Requires slope = gradient · direction < 0. The trial point and the gradient there are left in `point`
  /// and `gradient`.
  [[nodiscard]] RayMinimum minimize(Evaluator& evaluate, const Vector& from, double value, const Vector& direction,
                                    double slope, double first_step, double longest);

  Vector point;
  Vector gradient;

 private:
  struct Trial {
    double step = 0;
    double value = 0;
    double slope = 0;
  };

  [[nodiscard]] Trial look(Evaluator& evaluate, const Vector& from, const Vector& direction, double step);
};

/// The longest step along `direction` that stays within the bounds; infinite where nothing stops it.
[[nodiscard]] double longest_feasible_step(const Bounds& bounds, const Vector& from, const Vector& direction);

/// Sets the coordinates of a direction to zero that would leave the bounds at once.
void stay_feasible(const Bounds& bounds, const Vector& from, Vector& direction);

} // namespace tanzen::methods
