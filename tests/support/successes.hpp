#pragma once

#include "tanzen/search/run.hpp"

#include <algorithm>
#include <limits>
#include <vector>

namespace testing {

using tanzen::Method;
using tanzen::Outcome;
using tanzen::Problem;
using tanzen::Status;

/// What 15 paired repeats of a method come to.
struct Repeats {
  int successes = 0;
  double median_evaluations = 0; ///< to the gap; a failure counts as infinity
};

inline Repeats repeat(const Problem& problem, const Method& by, double gap, std::int64_t evaluations) {
  Repeats result;
  std::vector<double> spent;
  for (std::uint64_t repeat = 1; repeat <= 15; ++repeat) {
    const Outcome outcome =
        tanzen::run(problem, by, {.repeat = repeat, .stop = {.evaluations = evaluations, .gap = gap}});
    const bool is_success = outcome.status == Status::target;
    result.successes += is_success ? 1 : 0;
    spent.push_back(is_success ? static_cast<double>(outcome.counts[tanzen::Spent::evaluations])
                               : std::numeric_limits<double>::infinity());
  }
  std::ranges::sort(spent);
  result.median_evaluations = spent[spent.size() / 2];
  return result;
}

} // namespace testing
