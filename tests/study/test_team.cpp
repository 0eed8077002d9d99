#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/study/run_jobs.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <atomic>
#include <barrier>
#include <mutex>
#include <set>
#include <thread>

using namespace tanzen;

TEST_SUITE("teams") {
  TEST_CASE("so many threads work as were asked for, more than there are cores too") {
    const Team team = thread_team(6);
    std::mutex mutex;
    std::set<std::thread::id> seen;
    std::barrier together(6); // nobody passes before all six are there
    team.share(6, [&](std::size_t) {
      together.arrive_and_wait();
      const std::scoped_lock lock(mutex);
      seen.insert(std::this_thread::get_id());
    });
    CHECK(seen.size() == 6);
  }

  TEST_CASE("each part is done once, also where there are fewer parts than threads, or none") {
    const Team team = thread_team(4);
    for (const std::size_t parts : {0u, 1u, 3u, 4u, 100u}) {
      std::vector<std::atomic<int>> done(parts);
      team.share(parts, [&](std::size_t part) { ++done[part]; });
      for (const auto& each : done) CHECK(each == 1);
    }
  }

  TEST_CASE("what a part throws comes out, and the others end") {
    const Team team = thread_team(3);
    CHECK_THROWS_AS(team.share(50,
                               [](std::size_t part) {
                                 if (part == 7) throw std::runtime_error("part 7");
                               }),
                    std::runtime_error);
  }

  TEST_CASE("a team has an end") {
    CHECK_THROWS_WITH_AS((void)thread_team(100'000), doctest::Contains("at most 1024"), InputError);
    CHECK_FALSE(static_cast<bool>(thread_team(1).share));
  }

  TEST_CASE("difference gradients are shared out, with the same bits and counts") {
    std::atomic<int> at_once = 0, most = 0;
    const auto slow = [&](const Vector& x) {
      most = std::max(most.load(), ++at_once);
      std::this_thread::sleep_for(std::chrono::microseconds(300));
      --at_once;
      return (x.array() - 1).square().sum() + x[0] * x[1];
    };
    const Problem concurrent = Problem::black_box(6, slow, Calls::concurrent);
    for (const DerivativeMode mode : {DerivativeMode::central, DerivativeMode::forward}) {
      RunOptions options{.start = Vector::Constant(6, 3), .stop = {.iterations = 4}, .derivative = mode};
      const Outcome alone = run(concurrent, method("bfgs"), options);
      options.team = thread_team(4);
      most = 0;
      const Outcome shared = run(concurrent, method("bfgs"), options);
      CHECK(most > 1);
      CHECK(shared.point == alone.point);
      CHECK(shared.value == alone.value);
      CHECK(shared.counts[Spent::evaluations] == alone.counts[Spent::evaluations]);
      CHECK(shared.evaluations_to_best == alone.evaluations_to_best);
    }
  }
}
