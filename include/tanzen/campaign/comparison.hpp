#pragma once

#include "tanzen/analysis/statistics.hpp"
#include "tanzen/search/run.hpp"

#include <functional>
#include <string>
#include <vector>

namespace tanzen {

/// Several methods on several problems, several times. All methods of one repeat get the same start.
struct ComparisonPlan {
  std::vector<Problem> problems = {};
  std::vector<Method> methods = {};
  std::int64_t repeats = 15;
  std::uint64_t seed = 1;
  StopRules stop = {.evaluations = 100'000};
  double gap = 1e-8; ///< what counts as success
  DerivativeMode derivative = DerivativeMode::automatic;
};

/// What one method did on one problem.
struct ComparisonRow {
  std::string method;
  std::int64_t repeats = 0;
  std::int64_t successes = 0;
  Interval success_interval = {}; ///< Wilson, 95 %
  double lower_quartile_gap = 0;
  double median_gap = 0;
  double upper_quartile_gap = 0;
  double median_cost = 0;                           ///< to the gap; infinite where half the runs or more missed it
  std::optional<double> expected_running_time = {}; ///< none without a success
  double mean_rank = 0;                             ///< among the methods of the same repeat
};

struct ProblemComparison {
  std::string problem;
  double reference = 0;            ///< the value that gaps are measured from
  bool reference_is_known = false; ///< otherwise the best value of all these runs
  std::vector<ComparisonRow> rows;
};

/// Called after each run with how many are done and how many there are.
using RunCounter = std::function<void(std::int64_t done, std::int64_t all)>;

/// Runs the plan. Cost is counted in evaluations, with an exact gradient charged as one more. A run that fails,
/// diverges or runs out of budget stays in every denominator. Throws InputError for an empty plan.
[[nodiscard]] std::vector<ProblemComparison> compare(const ComparisonPlan& plan, const RunCounter& counter = {});

} // namespace tanzen
