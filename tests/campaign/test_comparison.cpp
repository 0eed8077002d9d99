#include "tanzen/base/errors.hpp"
#include "tanzen/campaign/comparison.hpp"
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

} // namespace

TEST_SUITE("comparison") {
  TEST_CASE("costs, successes and ranks are those of the runs") {
    const Method jumper("jumper", Jumper{});
    const ComparisonPlan plan{
        .problems = {testbed::problem("sphere", 2)},
        .methods = {jumper.with("after", 10), jumper.with("after", 30), jumper.with("fails", true)},
        .repeats = 5,
        .stop = {.evaluations = 100}};
    std::int64_t counted = 0;
    const auto results = compare(plan, [&](std::int64_t done, std::int64_t all) {
      CHECK(done == ++counted);
      CHECK(all == 15);
    });
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
                                .region({-1}, {1})
                                .known_minimum({0}, 0);
    const auto results = compare(
        {.problems = {fragile}, .methods = {Method("jumper", Jumper{})}, .repeats = 20, .stop = {.evaluations = 50}});
    const ComparisonRow& row = results[0].rows[0];
    CHECK(row.repeats == 20);
    CHECK(row.successes > 0);
    CHECK(row.successes < 20);
    CHECK(*row.expected_running_time > 10); // what the failures spent is charged to the successes
  }

  TEST_CASE("where no best value is known, the best of the runs is the reference") {
    const Problem unknown = Problem::from_formula("(x - 1)^2 + 3");
    const auto results = compare({.problems = {unknown}, .methods = {method("nelder-mead")}, .repeats = 4});
    CHECK_FALSE(results[0].reference_is_known);
    CHECK(results[0].reference == doctest::Approx(3));
    CHECK(results[0].rows[0].successes == 4);
  }

  TEST_CASE("gaps of a maximized problem are measured in its sense") {
    const Problem hill = Problem::from_formula("7 - x^2").maximized().known_minimum({0}, 7);
    const auto results = compare({.problems = {hill}, .methods = {method("nelder-mead")}, .repeats = 3});
    CHECK(results[0].reference == 7);
    CHECK(results[0].rows[0].successes == 3);
    CHECK(results[0].rows[0].median_gap >= 0);
  }

  TEST_CASE("an empty plan is refused") {
    const auto sphere = testbed::problem("sphere");
    CHECK_THROWS_WITH_AS((void)compare({.methods = {method("nelder-mead")}}), doctest::Contains("no problem"),
                         InputError);
    CHECK_THROWS_WITH_AS((void)compare({.problems = {sphere}}), doctest::Contains("no method"), InputError);
    CHECK_THROWS_WITH_AS((void)compare({.problems = {sphere}, .methods = {method("nelder-mead")}, .repeats = 0}),
                         doctest::Contains("at least 1 repeat"), InputError);
  }
}
