#pragma once

#include "tanzen/search/outcome.hpp"

#include <compare>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <string>
#include <vector>

namespace tanzen {

/// Which run of a campaign: problem and method by their places in it, repeats from 1.
struct RunKey {
  std::size_t problem = 0;
  std::int64_t repeat = 1;
  std::size_t method = 0;

  friend auto operator<=>(const RunKey&, const RunKey&) = default;
};

/// What is kept of one run of a campaign. Values are in the problem's sense; NaN is what is not known.
struct RunRecord {
  RunKey key;
  Status status = Status::failed;
  std::string message = {};                                ///< why it stopped, in words
  double value = std::numeric_limits<double>::quiet_NaN(); ///< the best one; without noise where the problem has noise
  double violation = 0;                                    ///< of constraints and bounds, at `point`
  bool feasible = true;                                    ///< whether that counts as feasible
  bool converged = false;                                  ///< as its outcome says
  Counts counts = {};
  std::int64_t iterations = 0;
  std::int64_t evaluations_to_best = 0;
  std::int64_t broken = 0; ///< evaluations that broke down
  double seconds = 0;
  Vector point = {}; ///< of the best value
  /// What had been used when each gap of the problem's targets was first reached, in their order, as far as it came.
  std::vector<Counts> hits = {};
  /// Of several objectives: the nondominated feasible points in objective space, each in its sense; a column a point.
  /// Of more than 200 so many that are spread over all.
  Matrix front = {};
  /// The thinned trace, its times unknown, so that equal runs have equal records; no rows where none is kept.
  Trace trace = {};
};

/// Whether a run that ended so broke down: it is counted among the failures, and its message tells why.
[[nodiscard]] constexpr bool is_failure(Status status) {
  return status == Status::failed || status == Status::diverged;
}

} // namespace tanzen
