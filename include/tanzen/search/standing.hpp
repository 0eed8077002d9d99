#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen {

class Evaluator;

/// What a point is ranked by where there are constraints.
struct Standing {
  double value = 0;     ///< to be minimized
  double violation = 0; ///< the largest of the constraints' rows; infinite where there is no value

  /// By the value where both are broken by no more than `level`, otherwise by the violation: feasible before infeasible
  /// with the feasibility tolerance as the level (Deb, 2000, section 3), the epsilon comparison with any other
  /// (Takahama and Sakai, 2006, section 2.2).
  [[nodiscard]] bool is_better_than(const Standing& other, double level) const {
    if (violation <= level && other.violation <= level) return value < other.value;
    return violation != other.violation ? violation < other.violation : value < other.value;
  }
};

/// What a point ranks by, its value the view's. Counts one evaluation.
[[nodiscard]] Standing standing_at(Evaluator& evaluate, const Vector& x);

} // namespace tanzen
