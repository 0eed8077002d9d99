#pragma once

#include "tanzen/search/stop_rules.hpp"

#include <cstdint>
#include <map>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tanzen {

/// A method of a plan under the name that tables and figures call it by.
struct PlannedMethod {
  std::string label = {};
  std::string use = {}; ///< its name in the catalogue
  std::vector<std::pair<std::string, std::string>> settings = {};
};

/// Where the runs of a plan begin.
enum class PlannedStarts {
  region, ///< at a random point of the region, another one in each repeat, the same for all methods of a repeat
  own,    ///< at the problem's own start, in every repeat
};

/// A plan as text: what a plan file says. Problems are named as on the command line, families among them.
struct PlanDefinition {
  std::string title = {};
  std::uint64_t seed = 1;
  std::int64_t repeats = 21;
  std::vector<std::string> problems = {};
  std::vector<PlannedMethod> methods = {};
  std::vector<std::int64_t> placements = {}; ///< of every problem of the testbed; empty: as the problems are named
  std::vector<std::string> noise = {}; ///< on every value, as in `normal:0.01`, or `none`; empty: as they are named
  PlannedStarts starts = PlannedStarts::region;
  StopRules stop = {.evaluations = 100'000};
  DerivativeMode derivative = DerivativeMode::automatic;
  double gradient_weight = 1; ///< evaluations that an exact gradient is charged; a Hessian, that many times n
  /// Gaps to reach, from large to small. Empty: three a decade, from the median gap of random points down to the
  /// smallest.
  std::vector<double> gaps = {};
  double smallest_gap = 1e-7;
  std::map<std::string, double> best = {}; ///< best values, by problem, where the problem knows none
  std::int64_t trace_rows = 500;           ///< kept of each run at most; 0 keeps no traces
};

} // namespace tanzen
