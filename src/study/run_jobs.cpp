#include "tanzen/study/run_jobs.hpp"

#include <memory>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

namespace tanzen {

void run_jobs(const Problem& problem, std::size_t count, const std::function<Job(std::size_t)>& job,
              const std::function<void(std::size_t, Outcome)>& keep) {
  const auto do_one = [&](std::size_t k) {
    const Job next = job(k);
    keep(k, run(problem, next.method, next.options));
  };
  if (problem.bundle()->is_concurrent()) {
    tbb::parallel_for(std::size_t{0}, count, do_one);
  } else {
    for (std::size_t k = 0; k < count; ++k) do_one(k);
  }
}

Team thread_team(std::size_t size) {
  if (size < 2) return {};
  auto arena = std::make_shared<tbb::task_arena>(static_cast<int>(size));
  return {size, [arena](std::size_t parts, const std::function<void(std::size_t)>& work) {
            arena->execute([&] { tbb::parallel_for(std::size_t{0}, parts, work); });
          }};
}

} // namespace tanzen
