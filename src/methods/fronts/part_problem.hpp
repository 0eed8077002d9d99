#pragma once

#include "tanzen/search/evaluator.hpp"

#include <vector>

namespace tanzen::methods {

/// A problem of one value out of the parts of another one's bundle, as rows that are linear in the parts and in some
/// variables more: the first row is minimized, the others have limits. The other one's constraints are kept.
struct PartProblem {
  Matrix of_objectives;                ///< a row each
  Matrix of_extras = {};               ///< likewise; no columns where there are no variables more
  Vector constants = {};               ///< added to the rows; empty: nothing
  std::vector<Constraint> limits = {}; ///< of all rows but the first
};

/// It, with every visit of a point asked of the evaluator, where it counts: an inner method runs on it with an
/// evaluator of its own. Borrows `outer`.
[[nodiscard]] Problem problem_of(Evaluator& outer, const PartProblem& part);

} // namespace tanzen::methods
