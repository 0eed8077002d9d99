#include "tanzen/analysis/point_kind.hpp"

#include "tanzen/base/text.hpp"

#include <Eigen/Eigenvalues>
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
  curvature.eigenvalues = Eigen::SelfAdjointEigenSolver<Matrix>(hessian, Eigen::EigenvaluesOnly).eigenvalues();
  curvature.kind = sits_on_bound(problem.bounds(), point) ? PointKind::on_bounds : kind_of(curvature.eigenvalues);
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

std::string to_text(const Curvature& curvature) {
  const Vector& values = curvature.eigenvalues;
  const std::string least = short_number(values.minCoeff(), 3), most = short_number(values.maxCoeff(), 3);
  std::string list = values.size() == 1 ? " " + least : fmt::format("s {} and {}", least, most);
  if (values.size() > 2) list = fmt::format("s from {} to {}", least, most);
  return fmt::format("{} (Hessian eigenvalue{})", point_kind_word(curvature.kind), list);
}

} // namespace tanzen
