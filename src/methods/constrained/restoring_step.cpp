#include "restoring_step.hpp"

#include "tanzen/numeric/factors.hpp"

#include <algorithm>

namespace tanzen::methods {

std::optional<NewtonStep> restoring_step(const Matrix& jacobian, const Vector& misfits, const Vector& room,
                                         const Vector& slack_room, double damping) {
  Matrix normal = jacobian * room.asDiagonal() * jacobian.transpose();
  normal.diagonal() += slack_room;
  normal.diagonal().array() += damping * std::max(normal.diagonal().maxCoeff(), 1e-12);
  CholeskyFactors factors(misfits.size());
  if (!factors.compute(normal)) return std::nullopt;
  Vector weights = -misfits;
  factors.solve_in_place(weights);
  return NewtonStep{.x = room.cwiseProduct(jacobian.transpose() * weights),
                    .slacks = -slack_room.cwiseProduct(weights),
                    .multipliers = {}};
}

} // namespace tanzen::methods
