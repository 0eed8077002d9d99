#pragma once

#include "tanzen/search/run.hpp"

#include <cstddef>
#include <functional>

namespace tanzen {

/// One run of many: a method and how it is run.
struct Job {
  Method method;
  RunOptions options = {};
};

/// Runs `count` jobs on a problem over all cores. `job` makes the k-th one, `keep` takes what came out of it; both are
/// called from several threads at once, each k once, in no order that could be relied on. What comes out of a job does
/// not depend on the others. An objective that several threads may not call at once is run by one.
/// What a job throws ends all of them and is thrown here.
void run_jobs(const Problem& problem, std::size_t count, const std::function<Job(std::size_t)>& job,
              const std::function<void(std::size_t, Outcome)>& keep);

/// So many threads, at most 1024, that evaluate a population, or the points of a difference gradient, together: also
/// more than there are cores, for objectives that wait.
[[nodiscard]] Team thread_team(std::size_t size);

} // namespace tanzen
