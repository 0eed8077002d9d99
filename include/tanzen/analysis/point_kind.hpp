#pragma once

#include "tanzen/problem/problem.hpp"
#include "tanzen/search/point_check.hpp"

#include <optional>
#include <string>
#include <string_view>

namespace tanzen {

/// What the curvature says about a point. The words stand in files.
enum class PointKind { minimum, maximum, saddle, degenerate, on_bounds };

struct Curvature {
  PointKind kind = PointKind::degenerate;
  Vector eigenvalues = {}; ///< of the Hessian in the problem's sense, rising
  bool is_tangent = false; ///< of the Lagrangian's, on the tangent space
};

/// What kind of point this is by the eigenvalues of the exact Hessian: degenerate where one is zero beside the
/// largest, on bounds where a variable sits on a limit. None where the problem has no exact Hessian, more than
/// `most_variables`, or an infinite entry. Cost: one Hessian and n^3; it counts in no run.
[[nodiscard]] std::optional<Curvature> curvature_at(const Problem& problem, const Vector& point,
                                                    Index most_variables = 200);

/// The same under constraints: by the Hessian of the Lagrangian on the space tangent to the constraints and bounds that
/// hold the point, with the multipliers of its check (Nocedal and Wright, 2006, section 12.5). A point that they hold
/// on all sides is a minimum. None where the multipliers are not known. Cost: one Hessian, one Jacobian and n^3.
[[nodiscard]] std::optional<Curvature> tangent_curvature(const Problem& problem, const Vector& point,
                                                         const PointCheck& checked, Index most_variables = 200);

[[nodiscard]] std::string_view point_kind_word(PointKind kind);

/// `Hessian eigenvalues 25.7 and 82.3`.
[[nodiscard]] std::string eigenvalue_text(const Curvature& curvature);

} // namespace tanzen
