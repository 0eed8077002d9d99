#pragma once

#include "tanzen/numeric/vector.hpp"

#include <optional>

namespace tanzen::methods {

/// Steps of all unknowns.
struct NewtonStep {
  Vector x, slacks, multipliers;
};

/// A damped Gauss-Newton step on half the squared misfits of rows with slacks, in units of the squared room that each
/// variable and slack has to its limits; none where the normal equations cannot be factored.
[[nodiscard]] std::optional<NewtonStep> restoring_step(const Matrix& jacobian, const Vector& misfits,
                                                       const Vector& room, const Vector& slack_room, double damping);

} // namespace tanzen::methods
