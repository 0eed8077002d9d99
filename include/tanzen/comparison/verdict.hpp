#pragma once

#include "tanzen/comparison/grouping.hpp"
#include "tanzen/statistics/rank_tests.hpp"

#include <cstddef>
#include <string>
#include <vector>

namespace tanzen {

/// How the first method of a problem compares with another one.
struct PairVerdict {
  std::size_t other = 0; ///< its place among the methods
  double p = 1;          ///< of the signed-rank test over the repeats, adjusted by Holm for all pairs of the problem
  WinsTiesLosses count = {}; ///< of the first method over the repeats
};

/// What the runs on one problem support: the method of the least mean rank against each other one.
struct ProblemVerdict {
  std::size_t first = 0;
  std::vector<PairVerdict> pairs = {};
  double least_p = 1; ///< what p could be at best with so many repeats and pairs
};

[[nodiscard]] ProblemVerdict verdict_on(const ProblemComparison& comparison);

/// In one sentence, what the numbers support at the level, and what they do not; empty for one method.
[[nodiscard]] std::string verdict_text(const ProblemComparison& comparison, double level = 0.05);

/// The same over a group of problems, by Friedman's test and the pairs of methods; empty for one method or one problem.
[[nodiscard]] std::string verdict_text(const GroupComparison& comparison, double level = 0.05);

} // namespace tanzen
