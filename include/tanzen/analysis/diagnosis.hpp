#pragma once

#include "tanzen/analysis/convergence.hpp"
#include "tanzen/analysis/point_kind.hpp"
#include "tanzen/search/outcome.hpp"

#include <optional>
#include <string>
#include <vector>

namespace tanzen {

/// What a finished run's trace shows beyond its outcome.
struct Diagnosis {
  std::optional<Curvature> curvature = {};     ///< at the best point
  std::optional<Convergence> convergence = {}; ///< how fast it came there
  std::vector<std::string> hints = {};         ///< what went poorly and what to try, most telling first
};

/// Looks at a run that is over. A hint is given only where its test on the trace holds. Cost: at most one Hessian and
/// one Jacobian, and of a problem with noise what an estimate of it takes; it counts in no run.
[[nodiscard]] Diagnosis diagnose(const Problem& problem, const Outcome& outcome);

/// What is known of the reported point, in a line: its kind where it is stationary, its slope, its curvature.
[[nodiscard]] std::string checked_text(const Outcome& outcome, const Diagnosis& diagnosis);

/// The lines that go below the outcome's block.
[[nodiscard]] std::string to_text(const Diagnosis& diagnosis);

} // namespace tanzen
