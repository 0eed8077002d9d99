// What methods spend, in medians over 21 starts: the usual one and twenty at random.
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <string>
#include <vector>

using namespace tanzen;

namespace {

struct Row {
  const char *problem, *method;
  double gap;
  std::int64_t limit;  ///< of values a run
  std::int64_t median; ///< at most, of the values to the gap; one that does not come there counts as the limit
  int successes;       ///< at least, of 21
};

} // namespace

TEST_SUITE("costs") {
  TEST_CASE("medians of values to the minimum, as the literature has them or better" *
            doctest::skip(testing::is_sanitized)) {
    for (const Row& row : {
             Row{"ellipsoid:dim=20,rotate=1", "lbfgs", 1e-8, 10'000, 1700, 21},
             Row{"ellipsoid:dim=40,rotate=1", "lbfgs", 1e-8, 10'000, 2600, 21},
             Row{"ellipsoid:dim=20,rotate=1", "conjugate-gradient", 1e-8, 10'000, 700, 21},
             Row{"ellipsoid:dim=40,rotate=1", "conjugate-gradient", 1e-8, 10'000, 1200, 20},
             Row{"ellipsoid:dim=10,rotate=1", "quadratic-model", 1e-8, 20'000, 1950, 21},
             Row{"ellipsoid:dim=20,rotate=1", "quadratic-model", 1e-8, 30'000, 9800, 21},
             Row{"cigar:dim=5,rotate=1", "quadratic-model", 1e-8, 20'000, 100, 21},
             Row{"cigar:dim=10,rotate=1", "quadratic-model", 1e-8, 20'000, 500, 20},
             Row{"sphere:dim=5", "genetic", 1e-6, 20'000, 20'000, 21},
             Row{"sphere:dim=5", "cross-entropy", 1e-8, 20'000, 20'000, 21},
             Row{"eggholder", "generalized-annealing", 1e-3, 10'000, 10'000, 11},
             Row{"ackley:dim=5", "basin-hopping", 1e-6, 10'000, 10'000, 19},
             Row{"ackley:dim=10", "basin-hopping", 1e-6, 10'000, 10'000, 19},
             Row{"eggholder", "basin-hopping", 1e-3, 20'000, 20'000, 18},
             Row{"branin", "surrogate", 0.00397, 60, 30, 15},
             Row{"goldstein-price", "surrogate", 0.03, 120, 60, 15},
             Row{"hartmann-3", "surrogate", 0.0386, 70, 35, 15},
         }) {
      CAPTURE(std::string(row.problem));
      CAPTURE(std::string(row.method));
      const Problem problem = testbed::parse_problem(row.problem);
      std::vector<std::int64_t> spent;
      int successes = 0;
      for (std::uint64_t repeat = 0; repeat < 21; ++repeat) {
        const Outcome outcome = run(problem, method(row.method),
                                    {.seed = 1,
                                     .repeat = repeat,
                                     .stop = {.evaluations = row.limit, .gap = row.gap},
                                     .trace = {.most_rows = 2}});
        successes += outcome.status == Status::target ? 1 : 0;
        spent.push_back(outcome.status == Status::target ? outcome.counts[Spent::evaluations] : row.limit);
      }
      std::ranges::sort(spent);
      CHECK(spent[10] <= row.median);
      CHECK(successes >= row.successes);
    }
  }

  TEST_CASE("conjugate directions need at most 180 values on the valley, in the median of starts about the usual one") {
    std::vector<std::int64_t> spent;
    for (int k = 0; k < 21; ++k) {
      const Outcome outcome = run(testbed::problem("rosenbrock"), method("powell"),
                                  {.start = {-1.2 - 0.002 * k, 1}, .stop = {.gap = 1e-8}});
      CHECK(outcome.status == Status::target);
      spent.push_back(outcome.counts[Spent::evaluations]);
    }
    std::ranges::sort(spent);
    CHECK(spent[10] <= 180);
  }

  TEST_CASE("differential evolution comes to the minimum of thirty variables" * doctest::skip(testing::is_sanitized)) {
    const Outcome outcome = run(testbed::problem("sphere", 30), method("differential-evolution"),
                                {.stop = {.evaluations = 120'000, .gap = 1e-8}, .trace = {.most_rows = 2}});
    CHECK(outcome.status == Status::target);
  }
}
