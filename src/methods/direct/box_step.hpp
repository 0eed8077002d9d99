#pragma once

#include "interpolation_model.hpp"
#include "tanzen/methods/gradient/trust_region_step.hpp"
#include "tanzen/numeric/vector.hpp"

#include <optional>
#include <vector>

namespace tanzen::methods {

/// A step that makes a quadratic small within a ball and a box: the exact one where the box does not cut it, otherwise
/// conjugate gradients over the variables that are free, with a variable fixed where it meets its bound (after Powell,
/// 2009, section 3). Allocates nothing after it is made.
class BoxStep {
 public:
  explicit BoxStep(Index n);

  /// `lower` and `upper` are the room around the present point: lower <= 0 <= upper.
  void find(InterpolationModel& model, double radius, const Vector& lower, const Vector& upper, Vector& step);

 private:
  bool find_exact(InterpolationModel& model, double radius, const Vector& lower, const Vector& upper, Vector& step);
  void find_by_conjugate_gradients(InterpolationModel& model, double radius, const Vector& lower, const Vector& upper,
                                   Vector& step);

  std::optional<NearlyExactStep> exact_;
  Matrix hessian_;
  Vector residual_, direction_, product_;
  std::vector<char> fixed_; ///< by variable: whether it stays at its bound
};

} // namespace tanzen::methods
