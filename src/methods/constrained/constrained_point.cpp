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

bool ConstrainedPoint::derive(Evaluator& evaluate) {
  const PartCounts& counts = evaluate.part_counts();
  const Matrix& all = evaluate.jacobian(x, &parts_);
  slopes_.resize(counts.all());
  Evaluation here(parts_, counts);
  here.value = value;
  evaluate.scalarization().slopes(here, slopes_);
  gradient.noalias() = all.transpose() * slopes_;
  jacobian = all.middleRows(counts.objectives, counts.constraints);
  return gradient.allFinite() && jacobian.allFinite();
}

double kkt_residual(const ConstrainedPoint& at, const Vector& multipliers, const std::vector<Constraint>& rows,
                    const Bounds& bounds) {
  const Vector lagrangian = at.gradient + at.jacobian.transpose() * multipliers;
  double worst = std::max(at.violation, bounds.projected_gradient_norm(at.x, lagrangian));
  for (std::size_t k = 0; k < rows.size(); ++k) {
    const auto i = static_cast<Index>(k);
    if (rows[k].is_equality() || multipliers[i] == 0) continue;
    const double limit = multipliers[i] > 0 ? rows[k].upper : rows[k].lower;
    worst = std::max(worst, std::abs(multipliers[i] * (at.rows[i] - limit)));
  }
  return worst;
}

} // namespace tanzen::methods
