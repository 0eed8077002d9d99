#include "tanzen/campaign/run_jobs.hpp"

#include <tbb/parallel_for.h>

namespace tanzen {

void run_jobs(const Problem& problem, std::size_t count, const std::function<Job(std::size_t)>& job,
              const std::function<void(std::size_t, Outcome)>& keep) {
  tbb::parallel_for(std::size_t{0}, count, [&](std::size_t k) {
    const Job next = job(k);
    keep(k, run(problem, next.method, next.options));
  });
}

} // namespace tanzen
