#pragma once

#include "tanzen/search/run.hpp"

namespace tanzen {

/// How a run ended, before its outcome is made. Values are those to minimize.
struct RunEnd {
  RunEnded ended;
  Vector start;
  double start_value; ///< in the user's sense
  Vector last_point;
  double last_value;
  double last_violation;
  double gradient_norm;
  double kkt;
  std::int64_t iterations;
  double seconds;
};

/// The outcome but for its trace and what is checked at the point.
[[nodiscard]] Outcome outcome_of(const Problem& problem, const Method& method, const RunOptions& options,
                                 const Evaluator& evaluate, RunEnd end);

/// Looks at the reported point, and settles the status by what is found.
void check_outcome(const Problem& problem, const RunOptions& options, Outcome& outcome);

} // namespace tanzen
