#pragma once

#include "tanzen/problem/problem.hpp"
#include "tanzen/search/fall.hpp"

#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// One constraint at the reported point. Values and limits as the user writes them.
struct ConstraintState {
  std::string name = {};
  double value = 0;
  double lower = 0;
  double upper = 0;
  double slack = 0;      ///< distance to the nearest limit; negative where it is broken
  bool active = false;   ///< it sits at a limit
  double multiplier = 0; ///< what one more unit of that limit changes the best value by, in the user's sense; 0 unless
                         ///< active, NaN where it is not known
};

/// What the problem can tell of a point: whether it is what was looked for.
struct PointCheck {
  enum class Verdict { unknown, stationary, not_stationary };

  Verdict verdict = Verdict::unknown;
  /// As `relative_gradient` measures it, of the Lagrangian where there are constraints; NaN where it is not known.
  double relative_gradient = std::numeric_limits<double>::quiet_NaN();
  /// The largest of the Lagrangian's projected gradient, the violation and the products of multipliers and slacks; NaN
  /// without constraints, or where it is not known.
  double kkt = std::numeric_limits<double>::quiet_NaN();
  double violation = 0;
  std::string how = {};                          ///< in words, what was looked at and what was found
  std::int64_t evaluations = 0;                  ///< that it cost; no count of the run has them
  std::vector<ConstraintState> constraints = {}; ///< in their order
  /// Of the bounds, by variable, in the user's sense: what one more unit of the bound that it sits on changes the best
  /// value by. Empty without bounds or derivatives.
  Vector bound_multipliers = {};
  /// A way from the point along which the objective gets better without end, where one was found.
  std::optional<Fall> fall = {};
};

struct CheckOptions {
  double feasibility = 1e-6;
  /// The value that the run began with, in the problem's sense, which says how large its values are; NaN where it had
  /// none.
  double start_value = std::numeric_limits<double>::quiet_NaN();
  /// What a relative gradient must be at most.
  double tolerance = 1e-5;
  /// Whether values on a pattern around the point may be looked at where the gradient does not tell: at a kink.
  bool by_values = false;
  /// Whether that may be done of a problem that is only called, whose evaluations may be dear.
  bool opaque = false;
  /// Where the run began: along the way from there it is looked for a fall without end, where the point is not
  /// stationary. Empty: it is not.
  Vector start = {};
};

/// Looks at a point. Cost: with exact derivatives one gradient, or one Jacobian and n^3 for the multipliers of active
/// constraints by least squares with their signs, and a Hessian where the run's values are small beside 1; by values
/// some 12 n, and 2 n gradients; for a fall what `find_fall` costs. Problems with noise are looked at without it.
/// Nothing is said of several objectives.
[[nodiscard]] PointCheck check_point(const Problem& problem, const Vector& x, const CheckOptions& options = {});

/// The word in files: `stationary`, `not stationary`, `unknown`.
[[nodiscard]] std::string_view verdict_word(PointCheck::Verdict verdict);

} // namespace tanzen
