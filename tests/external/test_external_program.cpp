#include "tanzen/base/errors.hpp"
#include "tanzen/external/external_program.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/study/run_jobs.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <chrono>
#include <cmath>

using namespace tanzen;

namespace {

/// A program that fails in a way of its own.
Problem faulty(const std::string& mode, double timeout = 5, Index restarts = 20, Index copies = 1) {
  const ProgramDefinition program{.command = {"python3", TANZEN_SOURCE "/tests/external/faulty_program.py", mode},
                                  .timeout = timeout,
                                  .copies = copies,
                                  .restarts = restarts};
  return Problem::from_objective(make_external(2, {}, program)).named(mode).start({3, 2}).region({-5, -5}, {5, 5});
}

Outcome solve(const Problem& problem, std::int64_t evaluations, bool stop_on_broken = false) {
  RunOptions options;
  options.stop.evaluations = evaluations;
  options.stop.stop_on_broken = stop_on_broken;
  return run(problem, method("nelder-mead"), options);
}

} // namespace

TEST_SUITE("external programs") {
  TEST_CASE("a program that works gives the values, and the run the same bits, as the formula would") {
    const Outcome outside = solve(faulty("works"), 100);
    const Outcome inside =
        solve(Problem::from_formula("x*x + y*y", {"x", "y"}).start({3, 2}).region({-5, -5}, {5, 5}), 100);
    CHECK(outside.point == inside.point);
    CHECK(outside.value == inside.value);
    CHECK(outside.events.broken == 0);
  }

  TEST_CASE("crashes, errors and garbage are counted, and the run goes on") {
    for (const char* mode : {"killed", "exits", "garbage", "error", "endless"}) {
      CAPTURE(mode);
      const Outcome outcome = solve(faulty(mode, 1, 100), 60);
      CHECK(outcome.status == Status::evaluations);
      CHECK(outcome.counts[Spent::evaluations] == 60);
      CHECK(outcome.events.broken > 0);
      CHECK(outcome.value < 13);
      CHECK(outcome.events.first_broken.find("python3") != std::string::npos);
    }
  }

  TEST_CASE("what a program says last is in the message") {
    CHECK(solve(faulty("killed", 5, 100), 60).events.first_broken.find("ended by signal 9") != std::string::npos);
    CHECK(solve(faulty("exits", 5, 100), 60).events.first_broken.find("exit code 3: out of gas") != std::string::npos);
    CHECK(solve(faulty("error"), 60).events.first_broken.find("it says: the shelf fell") != std::string::npos);
  }

  TEST_CASE("a value that is no number is outside the domain, not broken") {
    const Outcome outcome = solve(faulty("nan"), 60);
    CHECK(outcome.status == Status::evaluations);
    CHECK(outcome.events.outside_domain > 0);
    CHECK(outcome.events.broken == 0);
  }

  TEST_CASE("a program that hangs is ended after its timeout and started anew") {
    const Outcome outcome = solve(faulty("hangs", 0.3, 100), 30);
    CHECK(outcome.status == Status::evaluations);
    CHECK(outcome.events.broken > 0);
    CHECK(outcome.events.first_broken.find("no answer within 0.3 s") != std::string::npos);
  }

  TEST_CASE("asked to, a run ends at the first evaluation that breaks") {
    const Outcome outcome = solve(faulty("error"), 60, true);
    CHECK(outcome.status == Status::failed);
    CHECK(outcome.message.find("the shelf fell") != std::string::npos);
    CHECK(outcome.value <= 13); // what was found before is kept
  }

  TEST_CASE("a program that never works ends the run with its reason") {
    const Outcome dead = solve(faulty("ends-at-once", 5, 3), 60);
    CHECK(dead.status == Status::failed);
    CHECK(dead.message.find("has been started 4 times") != std::string::npos);
    CHECK(dead.message.find("the burner does not light") != std::string::npos);
    const Outcome deaf = solve(faulty("never-reads", 0.1, 2), 60);
    CHECK(deaf.status == Status::failed);
    const ProgramDefinition missing{.command = {"no-such-program-here"}};
    const Outcome none = solve(Problem::from_objective(make_external(1, {}, missing)).start({1}), 60);
    CHECK(none.status == Status::failed);
    CHECK(none.message.find("no-such-program-here cannot be started") != std::string::npos);
  }

  TEST_CASE("late answers to other requests and a flood of complaints do no harm") {
    CHECK(solve(faulty("late"), 40).value >= 0);
    CHECK(solve(faulty("chatty"), 10).events.broken == 0);
    CHECK(solve(faulty("leaves-a-child"), 10).events.broken == 0);
  }

  TEST_CASE("several copies are asked at once, and a run that mixes all faults ends in a stated status") {
    const Problem problem = faulty("mixed", 0.3, 1000, 2);
    RunOptions options{.stop = {.evaluations = 100}};
    options.team = thread_team(2);
    const Outcome outcome = run(problem, method("differential-evolution"), options);
    CHECK(outcome.status == Status::evaluations);
    CHECK(outcome.counts[Spent::evaluations] == 100);
    CHECK(outcome.events.broken > 0);
  }

  TEST_CASE("two copies work at the same time") {
    // Each keeps its own count of requests; were there one copy, all would come from one.
    const Problem problem = faulty("works", 5, 0, 2);
    RunOptions options{.stop = {.evaluations = 200}};
    const Outcome alone = run(problem, method("differential-evolution"), options);
    options.team = thread_team(2);
    const Outcome together = run(problem, method("differential-evolution"), options);
    CHECK(alone.point == together.point);
    CHECK(alone.counts[Spent::evaluations] == together.counts[Spent::evaluations]);
  }

  TEST_CASE("a description that cannot be is refused") {
    CHECK_THROWS_WITH_AS((void)make_external(1, {}, {}), doctest::Contains("has no command"), InputError);
    CHECK_THROWS_WITH_AS((void)make_external(1, {}, {.command = {"cat"}, .timeout = 0}),
                         doctest::Contains("the timeout must be"), InputError);
    CHECK_THROWS_WITH_AS((void)make_external(1, {}, {.command = {"cat"}, .copies = 0}),
                         doctest::Contains("the copies must be from 1"), InputError);
    CHECK_THROWS_WITH_AS((void)command_words("a 'b"), doctest::Contains("a quote without its end"), InputError);
    CHECK(command_words("python3  'my trial.py' --hot") == std::vector<std::string>{"python3", "my trial.py", "--hot"});
  }
}
