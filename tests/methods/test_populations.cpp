#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/study/run_jobs.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "../../src/methods/population/step_distribution.hpp"
#include "support/allocations.hpp"
#include "support/sanitized.hpp"
#include "support/successes.hpp"

#include <doctest/doctest.h>

#include <atomic>
#include <cmath>

using namespace tanzen;
using testing::repeat;

TEST_SUITE("population methods") {
  TEST_CASE("covariance matrix adaptation needs no more evaluations than the literature") {
    CHECK(repeat(testbed::problem("sphere", 10), method("cma-es"), 1e-8, 100'000).median_evaluations <= 2300);
    CHECK(repeat(testbed::problem("rosenbrock", 10), method("cma-es"), 1e-8, 100'000).median_evaluations <= 9500);
  }

  TEST_CASE("covariance matrix adaptation does not feel a rotation") {
    const auto plain = repeat(testbed::problem("ellipsoid", 10), method("cma-es"), 1e-8, 100'000);
    const auto turned = repeat(testbed::parse_problem("ellipsoid:dim=10,rotate=1"), method("cma-es"), 1e-8, 100'000);
    CHECK(turned.successes == 15);
    CHECK(turned.median_evaluations <= 8500);
    CHECK(turned.median_evaluations == doctest::Approx(plain.median_evaluations).epsilon(0.1));
    // The separable form does.
    const auto separable = repeat(testbed::parse_problem("ellipsoid:dim=10,rotate=1"),
                                  method("cma-es", {{"form", "separable"}}), 1e-8, 20'000);
    CHECK(separable.median_evaluations > 2 * turned.median_evaluations);
  }

  TEST_CASE("with restarts it solves rastrigin in ten variables" * doctest::skip(testing::is_sanitized)) {
    for (const char* restarts : {"increasing", "two-regimes"}) {
      CAPTURE(restarts);
      CHECK(repeat(testbed::problem("rastrigin", 10), method("cma-es", {{"restarts", restarts}}), 1e-8, 400'000)
                .successes >= 13);
    }
  }

  TEST_CASE("in the limited form a thousand variables need no matrix") {
    const Index n = 1000;
    const Problem problem = testbed::problem("sphere", n);
    Evaluator evaluate(problem, {}, DerivativeMode::automatic);
    const Vector start = Vector::Constant(n, 2);
    const Start from{.point = start, .value = evaluate(start), .random = RandomStream(1, {"test"})};
    const testing::AllocationWatch watch;
    const Method limited = method("cma-es", {{"form", "limited"}}); // the search borrows it
    Search search = limited.search(evaluate, from);
    for (int k = 0; k < 5; ++k) search.next();
    CHECK(static_cast<double>(watch.peak_bytes()) < 0.25 * 8 * n * n);
  }

  TEST_CASE("the strategy's constants are those of the table") {
    // Hansen, 2016, table 1, for n = 10: lambda = 10, mu = 5, mu_eff = 3.167.
    const methods::StrategyWeights weights(10, 10);
    CHECK(weights.parents == 5);
    CHECK(weights.weights.sum() == doctest::Approx(1));
    CHECK(weights.effective == doctest::Approx(3.167).epsilon(1e-3));
    CHECK(weights.path_rate == doctest::Approx(5.167 / 18.167).epsilon(1e-3));
    CHECK(weights.expected_length == doctest::Approx(std::sqrt(2) * std::tgamma(5.5) / std::tgamma(5)).epsilon(1e-3));
  }

  TEST_CASE("success-history differential evolution solves the rugged functions of ten variables" *
            doctest::skip(testing::is_sanitized)) {
    for (const char* name : {"rastrigin", "schwefel", "griewank", "ackley", "levy"}) {
      CAPTURE(name);
      CHECK(repeat(testbed::problem(name, 10), method("adaptive-differential-evolution"), 1e-8, 100'000).successes >=
            14);
    }
  }

  TEST_CASE("its population shrinks linearly over the evaluations allowed, and keeps to them") {
    const Outcome outcome = run(testbed::problem("rastrigin", 10), method("adaptive-differential-evolution"),
                                {.stop = {.evaluations = 20'000}});
    const auto sizes = outcome.trace.column("population"), spent = outcome.trace.column("evaluations");
    for (std::size_t row = 1; row + 1 < sizes.size(); ++row)
      CHECK(std::abs(sizes[row] - (180 - 176 * spent[row] / 20'000)) < 1); // a whole number
    CHECK(outcome.counts[Spent::evaluations] == 20'000);
  }

  TEST_CASE("each strategy of differential evolution solves a sphere") {
    for (const char* mutation : {"rand-1", "best-1", "rand-2", "best-2", "current-to-best-1", "current-to-rand-1"}) {
      for (const char* crossing : {"binomial", "exponential"}) {
        CAPTURE(mutation);
        CAPTURE(crossing);
        const Outcome outcome = run(testbed::problem("sphere", 5),
                                    method("differential-evolution", {{"mutation", mutation}, {"crossing", crossing}}),
                                    {.stop = {.evaluations = 60'000, .gap = 1e-6}});
        CHECK(outcome.status == Status::target);
      }
    }
  }

  TEST_CASE("a swarm with all as neighbours is quicker on one basin, the ring less easily misled") {
    const Problem sphere = testbed::problem("sphere", 10);
    const auto all = repeat(sphere, method("particle-swarm"), 1e-8, 50'000);
    const auto ring = repeat(sphere, method("particle-swarm", {{"neighbours", "ring"}}), 1e-8, 50'000);
    CHECK(all.successes == 15);
    CHECK(ring.successes == 15);
    CHECK(all.median_evaluations < ring.median_evaluations);
  }

  TEST_CASE("the one-fifth rule converges linearly on the sphere at the rate of theory") {
    // Rechenberg, 1973: about 0.2 / n in the logarithm of the distance each evaluation, at best.
    const Outcome outcome = run(testbed::problem("sphere", 10), method("evolution-strategy", {{"form", "one-fifth"}}),
                                {.start = Coordinates(Vector(Vector::Constant(10, 3))), .stop = {.evaluations = 2000}});
    const double rate = 0.5 * std::log(outcome.start_value / outcome.value) / 2000;
    CHECK(rate > 0.1 / 10);
    CHECK(rate < 0.25 / 10);
  }

  TEST_CASE("the genetic algorithm and cross-entropy come near the best of a separable rugged function") {
    const Problem rugged = testbed::problem("rastrigin", 3);
    CHECK(repeat(rugged, method("genetic"), 0.01, 50'000).successes >= 13);
    CHECK(repeat(rugged, method("cross-entropy", {{"population", 300}}), 0.01, 50'000).successes >= 13);
  }

  TEST_CASE("a team of threads gives the same bits as one thread, for an expression and a black box") {
    const Problem formula = testbed::problem("rastrigin", 4);
    const auto square = [](const Vector& x) { return x.squaredNorm() + std::cos(3 * x[0]); };
    const Problem safe = Problem::black_box(4, square, Calls::concurrent);
    for (const Problem& problem : {formula, safe}) {
      for (const char* name : {"differential-evolution", "cma-es", "particle-swarm", "genetic", "random-search"}) {
        CAPTURE(name);
        RunOptions options{.repeat = 1, .stop = {.evaluations = 777}};
        const Outcome alone = run(problem, method(name), options);
        options.team = thread_team(2);
        const Outcome together = run(problem, method(name), options);
        CHECK(alone.point == together.point);
        CHECK(alone.counts[Spent::evaluations] == 777);
        CHECK(together.counts[Spent::evaluations] == 777);
        CHECK(alone.evaluations_to_best == together.evaluations_to_best);
      }
    }
  }

  TEST_CASE("an objective that is not declared safe is called by one thread at a time") {
    std::atomic<int> inside = 0, most = 0;
    const auto slow = [&](const Vector& x) {
      most = std::max<int>(most, ++inside);
      double sum = x.squaredNorm();
      for (int k = 0; k < 2000; ++k) sum += std::sin(sum) * 1e-9;
      --inside;
      return sum;
    };
    RunOptions options{.repeat = 1, .stop = {.evaluations = 500}};
    options.team = thread_team(2);
    (void)run(Problem::black_box(3, slow), method("differential-evolution"), options);
    CHECK(most == 1);
  }

  TEST_CASE("populations are kept on request, spread over the run, the first one always") {
    RunOptions options{.repeat = 1, .stop = {.iterations = 100}};
    options.trace.most_populations = 10;
    const Outcome outcome = run(testbed::problem("rastrigin"), method("differential-evolution"), options);
    const auto& kept = outcome.trace.populations();
    CHECK(kept.size() <= 10);
    CHECK(kept.size() >= 5);
    CHECK(kept.front().iteration == 1);
    for (std::size_t k = 2; k < kept.size(); ++k)
      CHECK(kept[k].iteration - kept[k - 1].iteration == kept[1].iteration - kept[0].iteration);
    CHECK(kept.front().points.cols() == 50);
    CHECK(kept.back().values.minCoeff() ==
          outcome.trace.column("value")[static_cast<std::size_t>(kept.back().iteration)]);
    CHECK(run(testbed::problem("rastrigin"), method("differential-evolution"), {.stop = {.iterations = 3}})
              .trace.populations()
              .empty());
  }
}
