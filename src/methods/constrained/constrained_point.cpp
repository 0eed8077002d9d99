#include "constrained_point.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

bool ConstrainedPoint::evaluate_at(Evaluator& evaluate, const Vector& at) {
  if (&x != &at) x = at;
  const Evaluation& here = evaluate.at(x);
  value = here.value;
  rows = here.constraints();
  violation = here.violation;
  parts_ = here.parts();
  return std::isfinite(value) && rows.allFinite();
}

Evaluation ConstrainedPoint::evaluation(const PartCounts& counts) const {
  Evaluation here(parts_, counts);
  here.value = value;
  here.violation = violation;
  return here;
}

void ConstrainedPoint::hessian(Evaluator& evaluate, const Vector& multipliers, Matrix& matrix) {
  const PartCounts& counts = evaluate.part_counts();
  const Evaluation here = evaluation(counts);
  Vector weights(counts.all()), bends(counts.all());
  evaluate.scalarization().slopes(here, weights);
  weights.segment(counts.objectives, counts.constraints) += multipliers;
  matrix = evaluate.weighted_hessian(x, weights);
  if (evaluate.scalarization().bends(here, bends)) {
    const Matrix& all = evaluate.jacobian(x, &parts_);
    matrix += all.transpose() * bends.asDiagonal() * all;
  }
  symmetrize(matrix);
}

bool ConstrainedPoint::derive(Evaluator& evaluate) {
  const PartCounts& counts = evaluate.part_counts();
  const Matrix& all = evaluate.jacobian(x, &parts_);
  slopes_.resize(counts.all());
  evaluate.scalarization().slopes(evaluation(counts), slopes_);
  gradient.noalias() = all.transpose() * slopes_;
  jacobian = all.middleRows(counts.objectives, counts.constraints);
  return gradient.allFinite() && jacobian.allFinite();
}

bool is_least_broken(const ConstrainedPoint& at, const std::vector<Constraint>& rows, const Bounds& bounds) {
  constexpr double flat = 1e-3;
  Vector broken(at.rows.size());
  for (Index i = 0; i < broken.size(); ++i) broken[i] = rows[static_cast<std::size_t>(i)].outside(at.rows[i]);
  const Vector slope = at.jacobian.transpose() * broken;
  return bounds.projected_gradient_norm(at.x, slope) * std::max(1.0, at.x.norm()) <= flat * broken.squaredNorm();
}

double kkt_residual(const ConstrainedPoint& at, const Vector& multipliers, const std::vector<Constraint>& rows,
                    const Bounds& bounds) {
  const Vector lagrangian = at.gradient + at.jacobian.transpose() * multipliers;
  double worst = std::max(at.violation, bounds.projected_gradient_norm(at.x, lagrangian));
  for (std::size_t k = 0; k < rows.size(); ++k) {
    const auto i = static_cast<Index>(k);
    if (rows[k].is_equality() || multipliers[i] == 0) continue;
    const double limit = multipliers[i] > 0 ? rows[k].upper : rows[k].lower;
    // A multiplier of a side without a limit has the wrong sign.
    const double distance = std::isfinite(limit) ? at.rows[i] - limit : 1;
    worst = std::max(worst, std::abs(multipliers[i] * distance));
  }
  return worst;
}

} // namespace tanzen::methods
