#pragma once

#include "tanzen/search/evaluator.hpp"

namespace tanzen::methods {

/// Where a method that linearizes stands: what is minimized, the rows, and on demand their gradients.
struct ConstrainedPoint {
  Vector x;
  double value = 0; ///< to be minimized: of the objective, or of a fit's loss
  Vector rows;      ///< values of the constraints
  double violation = 0;
  Vector gradient; ///< of the value
  Matrix jacobian; ///< of the rows, a row each

  /// Takes over the point and evaluates it. False where there is no value.
  bool evaluate_at(Evaluator& evaluate, const Vector& at);
  /// Fills gradient and Jacobian; the point was evaluated. False where one is no number. Cost: one Jacobian.
  bool derive(Evaluator& evaluate);
  /// The Hessian of the value plus multipliers · rows. Cost: one Hessian; of a fit's loss a Jacobian beside it.
  void hessian(Evaluator& evaluate, const Vector& multipliers, Matrix& matrix);

 private:
  [[nodiscard]] Evaluation evaluation(const PartCounts& counts) const;

  Vector parts_, slopes_;
};

/// Whether half the sum of the squared violations has a projected gradient of next to nothing: the constraints cannot
/// be broken less from here.
[[nodiscard]] bool is_least_broken(const ConstrainedPoint& at, const std::vector<Constraint>& rows,
                                   const Bounds& bounds);

/// The largest of the projected gradient of the Lagrangian, the violation, and the products of multipliers and slacks;
/// rows' multipliers y as in the gradient g + J' y.
[[nodiscard]] double kkt_residual(const ConstrainedPoint& at, const Vector& multipliers,
                                  const std::vector<Constraint>& rows, const Bounds& bounds);

} // namespace tanzen::methods
