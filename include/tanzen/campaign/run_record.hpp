#pragma once

#include "tanzen/search/outcome.hpp"

#include <compare>
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
  double violation = 0;                                    ///< of the bounds, at `point`
  Counts counts = {};
  std::int64_t iterations = 0;
  std::int64_t evaluations_to_best = 0;
  std::int64_t broken = 0; ///< evaluations that broke down
  double seconds = 0;
  Vector point = {}; ///< of the best value
  /// What had been used when each gap of the problem's targets was first reached, in their order, as far as it came.
  std::vector<Counts> hits = {};
  /// The thinned trace: a line a row of `trace_columns`, as in a trace file; empty where none is kept.
  std::string trace = {};
};

/// Whether a run that ended so broke down: it is counted among the failures, and its message tells why.
[[nodiscard]] constexpr bool is_failure(Status status) {
  return status == Status::failed || status == Status::diverged;
}

/// The columns of a record's trace.
inline constexpr std::string_view trace_columns =
    "iteration,evaluations,gradients,hessians,value,best_value,gradient_norm,step_norm";

/// A record as bytes (MessagePack), for another process of the same campaign, and back to the same bits.
[[nodiscard]] std::string record_to_bytes(const RunRecord& record);
[[nodiscard]] RunRecord record_from_bytes(std::string_view bytes);

} // namespace tanzen
