#pragma once

#include "tanzen/study/run_jobs.hpp"

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// A setting and the values that it takes.
struct VariedSetting {
  std::string name = {};
  std::vector<std::string> values = {};

  /// Reads `step=1.02,0.97,0.3` or `step=1e-3..1e0:7`, seven values in equal ratios (or equal steps, where the range is
  /// not positive). Throws InputError.
  [[nodiscard]] static VariedSetting parse(std::string_view text);
};

/// What one run of a sweep ended with, without its trace.
struct SweepCell {
  Status status = Status::failed;
  bool converged = false;
  double value = 0;  ///< the last one, in the problem's sense; NaN where there is none
  double gap = 0;    ///< of the best value to the best known; NaN where that is not known
  Vector point = {}; ///< the last one
  std::int64_t iterations = 0;
  std::int64_t evaluations = 0;
};

/// One method with each combination of one or two settings, or from each of many starts.
[[nodiscard]] std::vector<Outcome> sweep_setting(const Problem& problem, const Method& method,
                                                 const VariedSetting& varied, const RunOptions& options);
/// The cell of the i-th value of `first` and the j-th of `second` stands at i + j * (number of first values).
[[nodiscard]] std::vector<SweepCell> sweep_settings(const Problem& problem, const Method& method,
                                                    const VariedSetting& first, const VariedSetting& second,
                                                    const RunOptions& options);
/// The starts are the columns.
[[nodiscard]] std::vector<SweepCell> sweep_starts(const Problem& problem, const Method& method, const Matrix& starts,
                                                  const RunOptions& options);

/// Ends of runs that belong together, because they are the same point as far as runs can tell.
struct EndGroup {
  Vector point = {}; ///< of the member with the best value
  double value = 0;
  std::size_t members = 0;
};

/// Groups the converged cells by their end points, the best value first. `group_of` gets each cell's group, -1 for
/// those that did not converge. Points count as the same within `tolerance` of the region's size.
[[nodiscard]] std::vector<EndGroup> group_ends(const Problem& problem, const std::vector<SweepCell>& cells,
                                               std::vector<int>& group_of, double tolerance = 1e-3);

} // namespace tanzen
