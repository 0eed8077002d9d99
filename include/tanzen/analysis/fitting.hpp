#pragma once

#include "tanzen/search/run.hpp"

#include <optional>
#include <string>

namespace tanzen {

struct FitOptions {
  /// Where the run begins; unset: the problem's start, or, where it has none, one of many points drawn over the bounds,
  /// or, where a parameter has none, over powers of ten, those that the residuals are linear in fitted at once: the one
  /// of the best from which a short run comes lowest.
  std::optional<Vector> start = {};
  /// So many points in any case, drawn likewise, and their best.
  std::optional<Index> starts = {};
  /// Whether the loss' scale is its usual one times the spread of the residuals (their median absolute deviation, over
  /// 0.6745), taken anew after each run until it stands.
  bool estimate_scale = false;
  /// Another method that fits from the same start where that was given: the lower sum of the two is taken, and what the
  /// other came to is told.
  std::optional<Method> second = {};
  RunOptions run = {};
};

/// A fit that was made.
struct Fit {
  Problem problem; ///< with the loss as it was in the end
  Outcome outcome = {};
  Vector start = {};
  double sum_before = 0;        ///< of the losses at the start, by the loss as it was in the end
  std::string start_told = {};  ///< where the start is from, in a sentence; empty where it was given
  Index scale_rounds = 0;       ///< how often the scale of the loss was estimated
  std::string method = {};      ///< whose answer it is
  std::string second_told = {}; ///< what the second method came to, in a sentence; empty where there was none
};

/// Fits by a method, from a start or from a search for one. Cost: the run's; for the search 200 evaluations for each
/// parameter, with a Jacobian each where some are linear, and eight short runs, on a thousand rows of a longer table,
/// which the outcome's counts do not have; a second method's run, likewise; for a scale some further runs, of which
/// they have the last. Throws ProblemError where the problem has no residuals.
[[nodiscard]] Fit fit(const Problem& problem, const Method& by, const FitOptions& options = {});

} // namespace tanzen
