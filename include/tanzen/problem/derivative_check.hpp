#pragma once

#include "tanzen/problem/problem.hpp"

#include <cstdint>
#include <functional>
#include <optional>
#include <string>

namespace tanzen {

/// What a comparison of a supplied gradient with the true one found.
struct DerivativeCheck {
  enum class Verdict {
    agrees,       ///< to rounding
    rounding,     ///< the difference is what rounding, or the differences themselves, leave
    wrong_formula ///< far more than that
  };

  Verdict verdict = Verdict::agrees;
  Index worst_variable = 0; ///< counted from zero
  Vector worst_point = {};
  double supplied = 0; ///< there
  double expected = 0; ///< there
  double relative_error = 0;
  double expected_error = 0; ///< of what is expected, relative, by its own account
  int points = 0;
  bool against_exact = false; ///< otherwise against extrapolated differences
};

/// A gradient that somebody wrote by hand.
using SuppliedGradient = std::function<Vector(const Vector&)>;

/// Compares it with the exact gradient, or where the problem has none with central differences extrapolated to the
/// limit (Ridders, 1982), at the start and at random points of the region. Cost: `points` gradients, or some 40 n
/// values each.
[[nodiscard]] DerivativeCheck check_gradient(const Problem& problem, const SuppliedGradient& supplied, int points = 10,
                                             std::uint64_t seed = 1);

/// Compares the problem's own derivatives with extrapolated differences, at the start and at random points of its
/// region: of a gradient, and of a Hessian if it has one, those of the gradient. For derivatives written by hand.
/// Throws ProblemError where it has none. Cost: some 40 n values a point, and 40 n gradients for a Hessian.
struct DerivativeChecks {
  DerivativeCheck gradient = {};
  std::optional<DerivativeCheck> hessian = {};
};
[[nodiscard]] DerivativeChecks check_derivatives(const Problem& problem, int points = 10, std::uint64_t seed = 1);

/// One partial derivative by differences extrapolated to the limit, with its error by its own account.
struct ExtrapolatedSlope {
  double value = 0;
  double error = 0;
};
[[nodiscard]] ExtrapolatedSlope extrapolated_slope(FunctionWorker& worker, const Vector& x, Index variable);

} // namespace tanzen
