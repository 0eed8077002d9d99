#include "tanzen/study/run_jobs.hpp"

#include "tanzen/base/errors.hpp"

#include <algorithm>
#include <atomic>
#include <exception>
#include <fmt/format.h>
#include <mutex>
#include <tbb/parallel_for.h>
#include <thread>
#include <vector>

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
  constexpr std::size_t most = 1024;
  if (size > most) throw InputError(fmt::format("a team has at most {} threads, not {}", most, size));
  if (size < 2) return {};
  return {size, [size](std::size_t parts, const std::function<void(std::size_t)>& work) {
            std::atomic<std::size_t> next = 0;
            std::mutex mutex;
            std::exception_ptr thrown;
            const auto take = [&] {
              for (std::size_t part = 0; (part = next++) < parts;) {
                try {
                  work(part);
                } catch (...) {
                  const std::scoped_lock lock(mutex);
                  thrown = std::current_exception();
                  next = parts;
                }
              }
            };
            {
              // Threads, not tasks of a scheduler that counts cores: an objective may spend its time waiting.
              std::vector<std::jthread> others;
              for (std::size_t k = 1; k < std::min(size, parts); ++k) others.emplace_back(take);
              take();
            }
            if (thrown) std::rethrow_exception(thrown);
          }};
}

} // namespace tanzen
