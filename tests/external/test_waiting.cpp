// A run that is over does not wait for the program that it asked.
#include "tanzen/base/errors.hpp"
#include "tanzen/external/external_program.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/study/work.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <atomic>
#include <chrono>
#include <thread>

using namespace tanzen;
using Clock = std::chrono::steady_clock;

namespace {

double seconds_since(Clock::time_point began) {
  return std::chrono::duration<double>(Clock::now() - began).count();
}

/// A program that answers the first `quick` requests at once and hangs from then on.
ProgramDefinition hangs_after(int quick) {
  const std::string script =
      "import sys, json, time\n"
      "for k, line in enumerate(sys.stdin):\n"
      "    if k >= " +
      std::to_string(quick) +
      ": time.sleep(1000)\n"
      "    r = json.loads(line)\n"
      "    print(json.dumps({'id': r['id'], 'value': sum(x * x for x in r['point'])}), flush=True)\n";
  return {.command = {"python3", "-c", script}, .timeout = 500};
}

Problem hanging(int quick, std::atomic<int>* starts = nullptr) {
  return Problem::from_objective(make_external(2, {}, hangs_after(quick),
                                               [starts](const ProgramDefinition&) {
                                                 if (starts != nullptr) ++*starts;
                                               }))
      .named("hanging")
      .start({3, 2})
      .region({-5, -5}, {5, 5});
}

} // namespace

TEST_SUITE("waiting for programs") {
  TEST_CASE("a limit of time ends the run at its time, with what there is") {
    const auto began = Clock::now();
    const Outcome outcome = run(hanging(7), method("nelder-mead"), {.stop = {.seconds = 4.0}});
    CHECK(seconds_since(began) < 60); // the program's own timeout is 500 s
    CHECK(outcome.status == Status::time);
    CHECK(outcome.message == "the limit of 4 s is reached");
    CHECK(outcome.value < 13);
    CHECK(outcome.counts[Spent::evaluations] == 8); // the one that was not answered counts
  }

  TEST_CASE("a limit of time that comes before the first value leaves an outcome without one") {
    const Outcome outcome = run(hanging(0), method("nelder-mead"), {.stop = {.seconds = 0.3}});
    CHECK(outcome.status == Status::time);
    CHECK(std::isnan(outcome.value));
    CHECK(outcome.point == Vector{{3, 2}});
  }

  TEST_CASE("a user who wants to stop is asked while the program thinks") {
    std::atomic<bool> has_values = false;
    Clock::time_point since;
    const auto began = Clock::now();
    // Some time after the last value that comes.
    const auto look = [&](const Progress& progress) {
      if (progress.counts[Spent::evaluations] < 5) return;
      since = Clock::now();
      has_values = true;
    };
    const Outcome outcome =
        run(hanging(7), method("nelder-mead"),
            {.observer = look, .asked_to_stop = [&] { return has_values.load() && seconds_since(since) > 0.3; }});
    CHECK(seconds_since(began) < 60);
    CHECK(outcome.status == Status::interrupted);
    CHECK(outcome.message == "stopped by its user");
    CHECK(outcome.value < 13);
  }

  TEST_CASE("a copy that was given up is no fault of the program's: the next run has a new one") {
    std::atomic<int> starts = 0;
    ProgramDefinition program = hangs_after(3);
    program.restarts = 0; // one start is allowed
    const Problem problem =
        Problem::from_objective(make_external(2, {}, program, [&](const ProgramDefinition&) { ++starts; }))
            .start({3, 2})
            .region({-5, -5}, {5, 5});
    CHECK(starts == 0); // nothing is started by making it
    for (int k = 0; k < 3; ++k) {
      const Outcome outcome = run(problem, method("nelder-mead"), {.stop = {.seconds = 3.0}});
      CHECK(outcome.status == Status::time);
      CHECK(outcome.counts[Spent::evaluations] == 4);
    }
    CHECK(starts == 1); // told once, at the first start
  }

  TEST_CASE("the program's own timeout still is a broken evaluation") {
    ProgramDefinition program = hangs_after(2);
    program.timeout = 3;
    program.restarts = 5;
    const Problem problem =
        Problem::from_objective(make_external(2, {}, program)).start({3, 2}).region({-5, -5}, {5, 5});
    const Outcome outcome = run(problem, method("nelder-mead"), {.stop = {.evaluations = 4}});
    CHECK(outcome.status == Status::evaluations);
    CHECK(outcome.events.broken > 0);
    CHECK(outcome.events.first_broken.find("no answer within 3 s") != std::string::npos);
  }

  TEST_CASE("a campaign that is stopped while its programs think ends, and keeps what is done") {
    std::atomic<bool> wants = false;
    const Campaign campaign({.repeats = 3, .stop = {.evaluations = 6}}, {hanging(9)}, {method("nelder-mead")});
    std::jthread user([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(700));
      wants = true;
    });
    RunQueue queue(campaign, missing_runs(campaign));
    std::size_t kept = 0;
    const auto began = Clock::now();
    const bool is_whole = work_on(campaign, 1, {[&] { return queue.next(); }, [&](const RunRecord&) { ++kept; }},
                                  [&] { return wants.load(); });
    CHECK(seconds_since(began) < 60);
    CHECK_FALSE(is_whole);
    CHECK(kept < 3);
  }

  TEST_CASE("what one run lost of a program is no other run's loss") {
    ProgramDefinition program{.command = {"python3", "-c", "import sys\nsys.stdin.readline()\nsys.exit(3)"},
                              .timeout = 60};
    program.restarts = 2;
    const Problem problem =
        Problem::from_objective(make_external(2, {}, program)).start({3, 2}).region({-5, -5}, {5, 5});
    const Outcome first = run(problem, method("nelder-mead"), {.stop = {.evaluations = 20}});
    const Outcome second = run(problem, method("nelder-mead"), {.stop = {.evaluations = 20}});
    for (const Outcome& outcome : {first, second}) {
      CHECK(outcome.status == Status::failed);
      CHECK(outcome.events.broken == 3); // the first copy and two more
      CHECK(outcome.message.find("has been started 3 times; the last end: it ended with exit code 3") !=
            std::string::npos);
    }
  }

  TEST_CASE("functions made of others hand on how long may be waited") {
    const Problem plain = hanging(4);
    const std::vector<Problem> made = {plain.noisy(Noise::parse("normal:0.01")),
                                       plain.observed([](const Vector&, double) {}), plain.maximized()};
    for (const Problem& problem : made) {
      const auto began = Clock::now();
      const Outcome outcome = run(problem, method("nelder-mead"), {.stop = {.seconds = 0.5}});
      CHECK(seconds_since(began) < 60);
      CHECK(outcome.status == Status::time);
    }
  }
}
