#include "tanzen/base/errors.hpp"
#include "tanzen/comparison/verdict.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <stdexcept>

using namespace tanzen;

namespace {

/// Jumps to the minimum of the sphere after a given number of values; every `fails`-th repeat never does.
struct Jumper {
  Index after = 10;
  bool fails = false;

  void settings(Settings& list) {
    list.add("after", after);
    list.add("fails", fails);
  }

  Search search(Evaluator& evaluate, Start start) const {
    Vector x = start.point;
    for (Index k = 2;; ++k) {
      if (k == after && !fails) x.setZero();
      co_yield Iteration(x, evaluate(x));
    }
  }
};

/// What runs a test compares: here, and to the smallest gap.
std::vector<ProblemComparison> compare_runs(const PlanDefinition& plan, std::vector<Problem> problems,
                                            std::vector<Method> methods) {
  return compare(run_campaign(Campaign(plan, std::move(problems), std::move(methods))));
}

} // namespace

TEST_SUITE("comparison") {
  TEST_CASE("costs, successes and ranks are those of the runs") {
    const Method jumper("jumper", Jumper{});
    const Campaign campaign({.repeats = 5, .stop = {.evaluations = 100}}, {testbed::problem("sphere", 2)},
                            {jumper.with("after", 10), jumper.with("after", 30), jumper.with("fails", true)});
    std::size_t counted = 0;
    const auto results =
        compare(run_campaign(campaign, {.workers = 1, .counter = [&](std::size_t done, std::size_t all) {
                                          CHECK(done == ++counted);
                                          CHECK(all == 15);
                                        }}));
    REQUIRE(results.size() == 1);
    CHECK(results[0].reference_is_known);
    const auto& rows = results[0].rows;
    CHECK(rows[0].successes == 5);
    CHECK(rows[0].median_cost == 10);
    CHECK(rows[0].expected_running_time == 10);
    CHECK(rows[0].mean_rank == 1);
    CHECK(rows[1].median_cost == 30);
    CHECK(rows[1].mean_rank == 2);
    CHECK(rows[2].successes == 0);
    CHECK(std::isinf(rows[2].median_cost));
    CHECK_FALSE(rows[2].expected_running_time.has_value());
    CHECK(rows[2].median_gap > 0);
    CHECK(rows[2].mean_rank == 3);
  }

  TEST_CASE("a failure stays in every denominator") {
    const Problem fragile = Problem::black_box(1,
                                               [](const Vector& x) -> double {
                                                 if (x[0] < 0) throw std::runtime_error("broken");
                                                 return x[0];
                                               })
                                .region(-1, 1)
                                .known_minimum({0}, 0);
    const auto results =
        compare_runs({.repeats = 20, .stop = {.evaluations = 50}}, {fragile}, {Method("jumper", Jumper{})});
    const ComparisonRow& row = results[0].rows[0];
    CHECK(row.repeats == 20);
    CHECK(row.successes > 0);
    CHECK(row.successes < 20);
    CHECK(*row.expected_running_time > 10); // what the failures spent is charged to the successes
  }

  TEST_CASE("where no best value is known, the best of the runs is the reference") {
    const Problem unknown = Problem::from_formula("(x - 1)^2 + 3");
    const auto results = compare_runs({.repeats = 4}, {unknown}, {method("nelder-mead")});
    CHECK_FALSE(results[0].reference_is_known);
    CHECK(results[0].reference == doctest::Approx(3));
    CHECK(results[0].rows[0].successes == 4);
  }

  TEST_CASE("gaps of a maximized problem are measured in its sense") {
    const Problem hill = Problem::from_formula("7 - x^2").maximized().known_minimum({0}, 7);
    const auto results = compare_runs({.repeats = 3}, {hill}, {method("nelder-mead")});
    CHECK(results[0].reference == 7);
    CHECK(results[0].rows[0].successes == 3);
    CHECK(results[0].rows[0].median_gap >= 0);
  }

  TEST_CASE("the verdict names the first method and what the data separate it from, with Holm's p by hand") {
    const Method jumper("jumper", Jumper{});
    const auto with = [&](std::int64_t repeats) {
      return compare_runs({.repeats = repeats, .stop = {.evaluations = 100}}, {testbed::problem("sphere", 2)},
                          {jumper.with("after", 30).labelled("slow"), jumper.with("after", 10).labelled("quick"),
                           jumper.with("after", 10).labelled("twin")});
    };
    const auto ten = with(10);
    const ProblemVerdict verdict = verdict_on(ten[0]);
    CHECK(verdict.first == 1);
    REQUIRE(verdict.pairs.size() == 2);
    CHECK(verdict.pairs[0].other == 0);
    CHECK(verdict.pairs[0].p == doctest::Approx(3 * 2.0 / 1024)); // ten repeats all one way, three pairs of methods
    CHECK(verdict.pairs[0].count.wins == 10);
    CHECK(verdict.pairs[1].p == 1);
    CHECK(verdict.pairs[1].count.ties == 10);
    CHECK(verdict_text(ten[0]) ==
          "sphere: quick comes first; the data separate it from slow (p at most 0.006); they do not "
          "separate it from twin (p at least 1.000)");
    CHECK(verdict_text(with(5)[0]) ==
          "sphere: quick comes first, but 5 repeats are too few for any difference to be significant at 0.05");
  }

  TEST_CASE("over all problems the mean ranks are Friedman's, with the problems as blocks") {
    const Method jumper("jumper", Jumper{});
    std::vector<Problem> problems;
    for (const Index n : {1, 2, 3, 4, 5}) problems.push_back(testbed::problem("sphere", n));
    const Results results =
        run_campaign(Campaign({.repeats = 6, .stop = {.evaluations = 100}}, problems,
                              {jumper.with("after", 30).labelled("slow"), jumper.with("after", 10).labelled("quick")}));
    const auto comparisons = compare(results);
    const GroupComparison all = compare_over(comparisons, results, group_problems(results).front());
    CHECK(all.friedman.mean_ranks == std::vector<double>{2, 1});
    CHECK(all.friedman.statistic == doctest::Approx(5)); // five blocks all one way: b (k - 1)
    CHECK(all.friedman.p == doctest::Approx(std::erfc(std::sqrt(2.5))));
    CHECK(all.first == 1);
    CHECK(all.rows[0].p_to_first == doctest::Approx(2.0 / 32)); // five problems all one way
    CHECK(all.rows[0].to_first.losses == 5);
    CHECK(all.rows[0].effect == 0);
    CHECK(all.rows[1].successes == 30);
    CHECK(verdict_text(all) ==
          "all problems, 5 problems: the methods differ (Friedman's test, p 0.025); quick has the best "
          "mean rank, 1.00, but 6 problems would be needed to tell pairs of 2 methods apart");
    CHECK(verdict_text(compare_over(comparisons, results, {"one", {0}})).empty());
  }

  TEST_CASE("an empty campaign is refused") {
    const auto sphere = testbed::problem("sphere");
    CHECK_THROWS_WITH_AS(Campaign({}, {}, {method("nelder-mead")}), doctest::Contains("no problem"), InputError);
    CHECK_THROWS_WITH_AS(Campaign({}, {sphere}, {}), doctest::Contains("no method"), InputError);
    CHECK_THROWS_WITH_AS(Campaign({.repeats = 0}, {sphere}, {method("nelder-mead")}),
                         doctest::Contains("at least 1 repeat"), InputError);
  }
}
