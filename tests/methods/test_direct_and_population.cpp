#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

/// How many of 15 paired repeats reach the gap within the evaluations.
int successes(const Problem& problem, const Method& by, double gap, std::int64_t evaluations) {
  int count = 0;
  for (std::uint64_t repeat = 1; repeat <= 15; ++repeat) {
    count +=
        run(problem, by, {.repeat = repeat, .stop = {.evaluations = evaluations, .gap = gap}}).status == Status::target
            ? 1
            : 0;
  }
  return count;
}

} // namespace

TEST_SUITE("direct and population methods") {
  TEST_CASE("the simplex search needs at most 220 evaluations on the curved valley") {
    const Outcome outcome = run(testbed::problem("rosenbrock"), method("nelder-mead"),
                                {.start = Coordinates{-1.2, 1}, .stop = {.gap = 1e-8}});
    CHECK(outcome.status == Status::target);
    CHECK(outcome.counts.evaluations <= 220);
  }

  TEST_CASE("the simplex search does the steps of the paper on a linear function: it only expands") {
    const Problem plane = Problem::from_formula("-x - y").start({0, 0});
    const Outcome outcome =
        run(plane, method("nelder-mead", {{"size", 1}, {"adaptive", false}}), {.stop = {.iterations = 1}});
    // Vertices (0,0), (1,0), (0,1); the worst is (0,0); its reflection (1,1) is the best; the expansion is (1.5, 1.5).
    CHECK(outcome.point == Vector{{1.5, 1.5}});
    CHECK(outcome.counts.evaluations == 3 + 2);
  }

  TEST_CASE("the simplex search contracts and shrinks where the paper says") {
    // One variable, vertices 0 and 1 of x^2: reflecting 1 gives -1, no better, so the inside contraction 0.5 is tried.
    const Problem bowl = Problem::from_formula("x^2").start({0});
    const Outcome outcome =
        run(bowl, method("nelder-mead", {{"size", 1}}), {.stop = {.iterations = 1}, .trace = {.points = true}});
    CHECK(outcome.counts.evaluations == 2 + 2);
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
    CHECK(successes(testbed::problem("rastrigin", 5), method("differential-evolution"), 1e-8, 60'000) >= 14);
    CHECK(successes(testbed::problem("eggholder"), method("differential-evolution"), 1e-4, 20'000) >= 9);
  }

  TEST_CASE("differential evolution keeps what was given to it and counts its population") {
    const Problem problem = testbed::problem("sphere", 3);
    const Outcome outcome = run(problem, method("differential-evolution", {{"population", 8}}),
                                {.start = Coordinates{0.001, 0, 0}, .stop = {.iterations = 4}});
    CHECK(outcome.counts.evaluations == 8 + 4 * 8);
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

TEST_SUITE("every method of the catalogue") {
  TEST_CASE("stays within bounds to the last bit, also where the minimum is on them") {
    for (const Method& each : standard_methods().all()) {
      if (each.card().bounds.empty()) continue;
      CAPTURE(each.name());
      std::int64_t outside = 0;
      const Problem fenced = Problem::black_box(3, [&](const Vector& x) {
                               outside += (x.array() < 0.1).any() || (x.array() > 0.7).any() ? 1 : 0;
                               return (x - Vector{{0.05, 0.3, 0.9}}).squaredNorm();
                             }).bounds({0.1, 0.1, 0.1}, {0.7, 0.7, 0.7});
      const Outcome outcome = run(fenced, each, {.stop = {.evaluations = 6000, .target = 0.0425 + 1e-6}});
      CHECK(outside == 0);
      CHECK(outcome.status == Status::target);
    }
  }

  TEST_CASE("keeps its limit, repeats bit for bit, and has finite columns") {
    for (const Method& each : standard_methods().all()) {
      for (const Index n : {Index{1}, Index{2}, Index{100}}) {
        CAPTURE(each.name());
        CAPTURE(n);
        const Problem problem = testbed::problem("rastrigin", n);
        const RunOptions options{.seed = 4, .repeat = 1, .stop = {.evaluations = 700}, .trace = {.points = true}};
        const Outcome a = run(problem, each, options), b = run(problem, each, options);
        CHECK(a.counts.evaluations <= 700);
        CHECK(a.point == b.point);
        REQUIRE(a.trace.rows() == b.trace.rows());
        for (std::size_t row = 0; row < a.trace.rows(); ++row) {
          for (std::size_t k = 0; k < a.trace.row(row).size(); ++k) {
            const double x = a.trace.at(row, k), y = b.trace.at(row, k);
            CHECK((k == Trace::seconds || x == y || (std::isnan(x) && std::isnan(y))));
            CHECK_FALSE(std::isinf(x));
          }
        }
      }
    }
  }

  TEST_CASE("survives a function that is mostly no number, a plateau and a constant") {
    const Problem holed =
        Problem::black_box(2, [](const Vector& x) { return x[0] * x[1] < 0 ? NAN : x.squaredNorm(); });
    const Problem steps = Problem::black_box(2, [](const Vector& x) { return std::floor(x.norm()); });
    const Problem constant = Problem::from_formula("0*x + 0*y + 3");
    for (const Method& each : standard_methods().all()) {
      CAPTURE(each.name());
      for (const Problem& problem : {holed, steps, constant}) {
        const Outcome outcome = run(problem, each, {.start = Coordinates{3, 2}, .stop = {.evaluations = 3000}});
        CHECK(outcome.status != Status::failed);
        CHECK(outcome.value <= problem.value({3, 2}));
      }
    }
  }
}
