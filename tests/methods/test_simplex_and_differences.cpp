#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/successes.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;
using testing::repeat;

TEST_SUITE("direct and population methods") {
  TEST_CASE("the simplex search needs at most 220 evaluations on the curved valley") {
    const Outcome outcome = run(testbed::problem("rosenbrock"), method("nelder-mead"),
                                {.start = Coordinates{-1.2, 1}, .stop = {.gap = 1e-8}});
    CHECK(outcome.status == Status::target);
    CHECK(outcome.counts[Spent::evaluations] <= 220);
  }

  TEST_CASE("the simplex search does the steps of the paper on a linear function: it only expands") {
    const Problem plane = Problem::from_formula("-x - y").start({0, 0});
    const Outcome outcome =
        run(plane, method("nelder-mead", {{"size", 1}, {"adaptive", false}}), {.stop = {.iterations = 1}});
    // Vertices (0,0), (1,0), (0,1); the worst is (0,0); its reflection (1,1) is the best; the expansion is (1.5, 1.5).
    CHECK(outcome.point == Vector{{1.5, 1.5}});
    CHECK(outcome.counts[Spent::evaluations] == 3 + 2);
  }

  TEST_CASE("the simplex search contracts and shrinks where the paper says") {
    // One variable, vertices 0 and 1 of x^2: reflecting 1 gives -1, no better, so the inside contraction 0.5 is tried.
    const Problem bowl = Problem::from_formula("x^2").start({0});
    const Outcome outcome =
        run(bowl, method("nelder-mead", {{"size", 1}}), {.stop = {.iterations = 1}, .trace = {.points = true}});
    CHECK(outcome.counts[Spent::evaluations] == 2 + 2);
    CHECK(outcome.trace.column("simplex_size").back() == 0.5);
  }

  TEST_CASE("the simplex search is invariant under a rising change of the values") {
    const Problem plain = testbed::problem("beale"),
                  bent = Problem::from_function(2, [](const auto&x) {
                           const double wanted[] = {1.5, 2.25, 2.625};
                           Expr total;
                           for (int i = 0; i < 3; ++i) total += pow(wanted[i] - x[0] * (1 - pow(x[1], i + 1)), 2);
                           return 8 * total; // exact in binary, so that every comparison comes out the same
                         }).region({-4.5, -4.5}, {4.5, 4.5});
    const RunOptions options{.start = Coordinates{1, 1}, .stop = {.iterations = 40}};
    CHECK(run(plain, method("nelder-mead"), options).last_point ==
          run(bent, method("nelder-mead"), options).last_point);
  }

  TEST_CASE("differential evolution solves the rugged functions") {
    CHECK(repeat(testbed::problem("rastrigin", 5), method("differential-evolution"), 1e-8, 60'000).successes >= 14);
    CHECK(repeat(testbed::problem("eggholder"), method("differential-evolution"), 1e-4, 20'000).successes >= 9);
  }

  TEST_CASE("differential evolution keeps what was given to it and counts its population") {
    const Problem problem = testbed::problem("sphere", 3);
    const Outcome outcome = run(problem, method("differential-evolution", {{"population", 8}}),
                                {.start = Coordinates{0.001, 0, 0}, .stop = {.iterations = 4}});
    CHECK(outcome.counts[Spent::evaluations] == 8 + 4 * 8);
    CHECK(outcome.value <= 1e-6); // the start is a member, and a member is only ever replaced by a better one
    const auto best = outcome.trace.column("value");
    CHECK(std::is_sorted(best.rbegin(), best.rend()));
  }

  TEST_CASE("a population or simplex that has collapsed ends the run") {
    const Outcome simplex = run(testbed::problem("sphere", 2), method("nelder-mead"), {.start = Coordinates{1, 1}});
    CHECK(simplex.status == Status::method);
    const Outcome population =
        run(testbed::problem("sphere", 2), method("differential-evolution"), {.start = Coordinates{1, 1}});
    CHECK(population.status == Status::method);
    CHECK(population.value < 1e-20);
  }
}
