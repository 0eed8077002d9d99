#include "tanzen/analysis/point_kind.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/symmetric_eigen.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {
namespace {

bool sits_on_bound(const Bounds& bounds, const Vector& point) {
  return (point.array() <= bounds.lower().array()).any() || (point.array() >= bounds.upper().array()).any();
}

PointKind kind_of(const Vector& eigenvalues) {
  // Below this part of the largest, rounding and what is left of the way decide the sign.
  constexpr double negligible = 1e-8;
  const double scale = eigenvalues.cwiseAbs().maxCoeff();
  if (scale == 0 || eigenvalues.cwiseAbs().minCoeff() <= negligible * scale) return PointKind::degenerate;
  if (eigenvalues.minCoeff() > 0) return PointKind::minimum;
  return eigenvalues.maxCoeff() < 0 ? PointKind::maximum : PointKind::saddle;
}

} // namespace

std::optional<Curvature> curvature_at(const Problem& problem, const Vector& point, Index most_variables) {
  if (problem.dimension() > most_variables || problem.objective().derivatives() != Derivatives::hessian)
    return std::nullopt;
  const Matrix hessian = problem.hessian(point);
  if (!hessian.allFinite()) return std::nullopt;
  Curvature curvature;
  curvature.eigenvalues = symmetric_eigenvalues(hessian);
  // In units of the variables' sizes, which change no sign (Sylvester's law of inertia) and much of the condition.
  const Vector sizes = point.cwiseAbs().cwiseMax(problem.typical_sizes());
  const Matrix scaled = sizes.asDiagonal() * hessian * sizes.asDiagonal();
  curvature.kind =
      sits_on_bound(problem.bounds(), point) ? PointKind::on_bounds : kind_of(symmetric_eigenvalues(scaled));
  return curvature;
}

std::string_view point_kind_word(PointKind kind) {
  switch (kind) {
  case PointKind::minimum: return "minimum";
  case PointKind::maximum: return "maximum";
  case PointKind::saddle: return "saddle";
  case PointKind::degenerate: return "degenerate";
  case PointKind::on_bounds: return "on bounds";
  }
  return "";
}

std::string eigenvalue_text(const Curvature& curvature) {
  const Vector& values = curvature.eigenvalues;
  if (values.size() == 0) return "held by its constraints on all sides";
  const std::string of = curvature.is_tangent ? "Lagrangian's eigenvalue" : "Hessian eigenvalue";
  const std::string least = short_number(values.minCoeff(), 3), most = short_number(values.maxCoeff(), 3);
  if (values.size() == 1) return fmt::format("{} {}", of, least);
  return values.size() == 2 ? fmt::format("{}s {} and {}", of, least, most)
                            : fmt::format("{}s from {} to {}", of, least, most);
}

std::optional<Curvature> tangent_curvature(const Problem& problem, const Vector& point, const PointCheck& checked,
                                           Index most_variables) {
  const Index n = point.size();
  const bool is_known =
      std::ranges::none_of(checked.constraints, [](const auto& s) { return std::isnan(s.multiplier); });
  if (n > most_variables || checked.constraints.empty() || !is_known ||
      problem.bundle()->derivatives() != Derivatives::hessian)
    return std::nullopt;
  const PartCounts& parts = problem.parts();
  const auto worker = problem.bundle()->worker();
  Vector outputs, weights(parts.all());
  worker->outputs(point, outputs);
  problem.scalarization()->slopes(Evaluation(outputs, parts), weights);
  Matrix jacobian, hessian;
  worker->jacobian(point, jacobian);
  std::vector<Vector> held;
  for (Index k = 0; k < parts.constraints; ++k) {
    const ConstraintState& state = checked.constraints[static_cast<std::size_t>(k)];
    weights[parts.objectives + k] = -state.multiplier;
    if (state.active && (state.multiplier != 0 || state.lower == state.upper))
      held.push_back(jacobian.row(parts.objectives + k));
  }
  for (Index i = 0; i < checked.bound_multipliers.size(); ++i) {
    if (checked.bound_multipliers[i] != 0) held.push_back(Vector::Unit(n, i));
  }
  worker->weighted_hessian(point, weights, hessian);
  if (!hessian.allFinite()) return std::nullopt;
  Matrix columns(n, static_cast<Index>(held.size()));
  for (std::size_t k = 0; k < held.size(); ++k) columns.col(static_cast<Index>(k)) = held[k];
  Curvature curvature;
  curvature.is_tangent = true;
  const Matrix tangent = orthogonal_basis(columns);
  if (tangent.cols() == 0) {
    curvature.kind = problem.sense() == Sense::minimize ? PointKind::minimum : PointKind::maximum;
    return curvature;
  }
  const Matrix reduced = tangent.transpose() * hessian * tangent;
  curvature.eigenvalues = symmetric_eigenvalues(reduced);
  curvature.kind = kind_of(curvature.eigenvalues);
  return curvature;
}

} // namespace tanzen
