#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/search/run.hpp"

#include <cstdint>
#include <vector>

namespace tanzen {

/// What one iteration of a run looked at along its own direction.
struct SearchLine {
  Vector from = {};                ///< where the iteration began
  Vector to = {};                  ///< where it ended
  std::vector<double> places = {}; ///< of the values asked for, as distances from `from` along the direction, in order
};

/// Runs a method up to an iteration (counted from 1) and notes what that one asked for. Values off the line through its
/// two ends are left out. Throws InputError where the run ends before, or the iteration does not move.
[[nodiscard]] SearchLine search_line(const Problem& problem, const Method& method, RunOptions options,
                                     std::int64_t iteration);

/// The function along the line, with the slope at its start and each trial.
[[nodiscard]] Figure search_line_figure(const Problem& problem, const SearchLine& line);

} // namespace tanzen
