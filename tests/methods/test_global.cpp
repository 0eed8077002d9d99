#include "tanzen/methods/catalogue.hpp"
#include "tanzen/methods/global/multistart.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "../../src/methods/global/gaussian_process.hpp"
#include "support/sanitized.hpp"
#include "support/successes.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;
using testing::repeat;

namespace {

/// How many of the known minima are among those that a run listed.
int known_found(const Problem& problem, const Outcome& outcome, bool global_only = false) {
  int count = 0;
  for (const KnownMinimum& known : problem.known_minima()) {
    if (global_only && !known.global) continue;
    for (const FoundMinimum& found : outcome.minima) {
      if ((found.point - known.point).norm() > 1e-3) continue;
      ++count;
      break;
    }
  }
  return count;
}

Outcome list_minima(const char* problem, std::uint64_t seed) {
  return run(testbed::problem(problem), method("single-linkage"), {.seed = seed});
}

} // namespace

TEST_SUITE("global methods") {
  TEST_CASE("single linkage finds the four minima of himmelblau and the six of the camel, whatever the seed") {
    for (std::uint64_t seed = 1; seed <= 15; ++seed) {
      CAPTURE(seed);
      const Outcome four = list_minima("himmelblau", seed), six = list_minima("six-hump-camel", seed);
      CHECK(four.minima.size() == 4);
      CHECK(known_found(testbed::problem("himmelblau"), four) == 4);
      CHECK(six.minima.size() == 6);
      CHECK(known_found(testbed::problem("six-hump-camel"), six) ==
            static_cast<int>(testbed::problem("six-hump-camel").known_minima().size()));
      CHECK(six.status == Status::method); // and knows when it is done
    }
  }

  TEST_CASE("single linkage finds the 18 global minima of shubert among 760" * doctest::skip(testing::is_sanitized)) {
    const Problem shubert = testbed::problem("shubert");
    CHECK(known_found(shubert, list_minima("shubert", 1), true) == 18);
  }

  TEST_CASE("minima are listed best first, in the user's sense, each once with its searches") {
    const Problem hills = Problem::from_formula("-(x^2 - 4)^2 - 0.5*x").maximized().region(-4, 4);
    const Outcome outcome = run(hills, method("multistart"), {.seed = 2});
    REQUIRE(outcome.minima.size() == 2);
    CHECK(outcome.minima[0].value > outcome.minima[1].value);
    CHECK(outcome.minima[0].point[0] == doctest::Approx(-2.0155).epsilon(1e-3));
    CHECK(outcome.minima[0].times + outcome.minima[1].times > 10);
    CHECK(outcome.status == Status::method);
  }

  TEST_CASE("the rule of Boender and Rinnooy Kan says when all minima are found") {
    // One minimum: 1 (s - 1) / (s - 3) < 1.5 from s = 8 on.
    CHECK_FALSE(methods::probably_all_found(7, 1));
    CHECK(methods::probably_all_found(8, 1));
    CHECK_FALSE(methods::probably_all_found(5, 5));
    // Four: 4 (s - 1) / (s - 6) < 4.5 from s = 47 on.
    CHECK_FALSE(methods::probably_all_found(46, 4));
    CHECK(methods::probably_all_found(47, 4));
  }

  TEST_CASE("basin hopping solves rastrigin and the eggholder") {
    CHECK(repeat(testbed::problem("rastrigin"), method("basin-hopping"), 1e-6, 20'000).successes >= 14);
    CHECK(repeat(testbed::problem("eggholder"), method("basin-hopping"), 1e-6, 20'000).successes >= 9);
  }

  TEST_CASE("basin hopping adapts its step towards the acceptance wanted, and takes any local method") {
    const Outcome outcome =
        run(testbed::problem("rastrigin"), standard_methods().parse("basin-hopping:local=nelder-mead"),
            {.stop = {.evaluations = 5000}});
    CHECK(outcome.value < 1e-6);
    const Outcome inner = run(testbed::problem("rastrigin"),
                              standard_methods().parse("basin-hopping:local=(nelder-mead:size=0.2,adaptive=false)"),
                              {.stop = {.evaluations = 5000}});
    CHECK(inner.counts[Spent::gradients] == 0);
  }

  TEST_CASE("a local method that does not exist or cannot keep bounds is refused with the reason") {
    CHECK_THROWS_WITH_AS((void)method("multistart", {{"local", "nelder-meed"}}), doctest::Contains("did you mean"),
                         InputError);
    const Problem fenced = testbed::problem("eggholder");
    CHECK_THROWS_WITH_AS((void)run(fenced, method("multistart", {{"local", "bfgs"}})),
                         doctest::Contains("bfgs cannot keep within bounds, and eggholder has them; these can: "),
                         InputError);
    CHECK_THROWS_WITH_AS((void)run(fenced, method("multistart", {{"local", "cubic"}})),
                         doctest::Contains("cubic works in one variable, and eggholder has 2; these can: "),
                         InputError);
  }

  TEST_CASE("the surrogate finds branin's minimum to a thousandth in 60 evaluations") {
    CHECK(repeat(testbed::problem("branin"), method("surrogate"), 1e-3, 60).successes == 15);
  }

  TEST_CASE("a Gaussian process goes through its values, and is unsure between them") {
    methods::GaussianProcess process(1, false);
    const Matrix places{{0.1, 0.35, 0.6, 0.9}};
    const Vector values{{0.3, -1, 0.5, 0.2}};
    process.set(places, values, true);
    const auto there = process.at(places);
    const auto between = process.at(Matrix{{0.225, 0.475, 0.75}});
    CHECK((there.mean - values).norm() < 1e-5);
    CHECK(there.deviation.maxCoeff() < 1e-3);
    CHECK(between.deviation.minCoeff() > 10 * there.deviation.maxCoeff());
  }

  TEST_CASE("dividing rectangles take the paper's first steps") {
    // One variable, region 0 to 9: the centre 4.5, then 1.5 and 7.5.
    std::vector<double> asked;
    const Problem line = Problem::black_box(1, [&](const Vector& x) {
                           asked.push_back(x[0]);
                           return x[0];
                         }).bounds(0, 9);
    (void)run(line, method("direct"), {.start = Coordinates{8}, .stop = {.iterations = 2}});
    REQUIRE(asked.size() >= 6);
    CHECK(asked[1] == doctest::Approx(4.5));
    CHECK(asked[2] == doctest::Approx(1.5));
    CHECK(asked[3] == doctest::Approx(7.5));
    // All three are equally large now: only the one with the least value can hold the minimum.
    CHECK(asked[4] == doctest::Approx(0.5));
    CHECK(asked[5] == doctest::Approx(2.5));
    CHECK(asked.size() == 6);
  }

  TEST_CASE("dividing rectangles need about as many values as the paper's table on branin, camel and shubert") {
    // Jones, Perttunen and Stuckman, 1993, report 195, 285 and 2967 to one hundredth of a per cent.
    const auto needed = [](const char* name, double gap) {
      const Outcome outcome =
          run(testbed::problem(name), method("direct"), {.stop = {.evaluations = 5000, .gap = gap}});
      return outcome.status == Status::target ? outcome.counts[Spent::evaluations] : 100'000;
    };
    CHECK(needed("branin", 0.397887e-4) <= 215);
    CHECK(needed("six-hump-camel", 1.0316e-4) <= 315);
    CHECK(needed("shubert", 186.73e-4) <= 3300);
  }

  TEST_CASE("annealing cools by each schedule, and comes to the best basin of a rugged function") {
    for (const char* cooling : {"geometric", "linear", "logarithmic", "inverse"}) {
      CAPTURE(cooling);
      const Outcome outcome =
          run(testbed::problem("rastrigin"), method("annealing", {{"cooling", cooling}, {"levels", 30}}),
              {.stop = {.evaluations = 50'000}});
      const auto heat = outcome.trace.column("temperature");
      CHECK(std::is_sorted(heat.rbegin(), heat.rend() - 1));
      CHECK(outcome.value < 1);
    }
    CHECK(repeat(testbed::problem("rastrigin"), method("annealing"), 1e-3, 50'000).successes >= 9);
  }

  TEST_CASE("generalized annealing jumps out of basins and refines what it finds") {
    CHECK(repeat(testbed::problem("rastrigin"), method("generalized-annealing"), 1e-8, 20'000).successes >= 13);
    CHECK(repeat(testbed::problem("rastrigin", 5), method("generalized-annealing"), 1e-8, 100'000).successes >= 13);
  }

  TEST_CASE("random search is as good as the part of the region that is good enough") {
    // P(sphere <= 1) in the square of side 10.24 is pi / 104.9; a hundred points find it with 1 - (1 - p)^100 = 0.95.
    int found = 0;
    for (std::uint64_t repeat = 1; repeat <= 200; ++repeat) {
      const Outcome outcome = run(testbed::problem("sphere", 2), method("random-search"),
                                  {.repeat = repeat, .stop = {.evaluations = 101, .gap = 1}});
      found += outcome.status == Status::target ? 1 : 0;
    }
    CHECK(found >= 180); // 190.5 expected, four standard deviations are 12
  }
}
