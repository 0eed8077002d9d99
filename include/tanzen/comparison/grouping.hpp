#pragma once

#include "tanzen/comparison/comparison.hpp"
#include "tanzen/statistics/rank_tests.hpp"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// Problems that belong together, by their places.
struct ProblemGroup {
  std::string name = {}; ///< `ill-conditioned`, `dim=10`, `all problems`
  std::vector<std::size_t> problems = {};
};

/// Groups by `trait` (a problem is in one group for each of its traits; groups of the same problems are one), `dim`,
/// `family`, or any option of the problems' names, such as `placement` or `noise`; several, apart by commas,
/// give a group for each combination. Without any, one group of all. Throws InputError for a key that no problem has.
[[nodiscard]] std::vector<ProblemGroup> group_problems(const Results& results, std::string_view by = "");

/// The problems that have all of the words, apart by commas: traits, `dim=10`, `family=rosenbrock`, an option with its
/// value. Throws InputError where there are none.
[[nodiscard]] ProblemGroup only_problems(const Results& results, std::string_view words);

/// What a method did on a group of problems.
struct GroupRow {
  std::string method = {};
  std::int64_t runs = 0;
  std::int64_t successes = 0;
  Interval success_interval = {};
  double mean_rank = 0;         ///< over the problems
  double p_to_first = 1;        ///< signed-rank test over the problems against the method ranked first, by Holm
  WinsTiesLosses to_first = {}; ///< over the problems, by mean rank
  double effect = 0.5;          ///< Vargha and Delaney: the chance to be better than the first, mean over the problems
  double anytime = 0;           ///< mean over the problems
};

struct GroupComparison {
  std::string group = {};
  std::size_t problems = 0;
  std::size_t first = 0; ///< the method of the least mean rank
  std::vector<GroupRow> rows = {};
  FriedmanTest friedman;
  double critical_distance = 0; ///< of mean ranks, at 5 %; 0 for one method
  double least_p = 1;           ///< what the p of a pair could be at best with so many problems and pairs
};

/// Compares the methods over a group of the problems that `comparisons` (of the same results) holds; problems that it
/// does not hold are left out. Requires at least one that it does.
[[nodiscard]] GroupComparison compare_over(const std::vector<ProblemComparison>& comparisons, const Results& results,
                                           const ProblemGroup& group);

} // namespace tanzen
