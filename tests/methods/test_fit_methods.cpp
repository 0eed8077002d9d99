#include "tanzen/methods/catalogue.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;

namespace {

struct FitTally {
  int problems = 0, solved = 0;
  std::vector<std::int64_t> evaluations;
  std::string missed;
};

/// The sums of squares of the testbed, each from its standard start, to a minimum that is known.
FitTally solve_fits(const char* name) {
  FitTally tally;
  for (const auto& function : testbed::all()) {
    if (!function.residuals) continue;
    const Problem problem = testbed::problem(function.name);
    const Outcome outcome = run(problem, method(name), {.stop = {.evaluations = 2000}});
    const auto is_there = [&](const KnownMinimum& minimum) {
      return std::abs(outcome.value - minimum.value) <= 1e-6 * std::max(1.0, std::abs(minimum.value));
    };
    ++tally.problems;
    const bool is_solved = std::ranges::any_of(problem.known_minima(), is_there) ||
                           (problem.best_known() && std::abs(outcome.value - *problem.best_known()) <=
                                                        1e-6 * std::max(1.0, *problem.best_known()));
    tally.solved += is_solved;
    if (!is_solved) tally.missed += " " + problem.name();
    tally.evaluations.push_back(outcome.counts[Spent::evaluations]);
    CAPTURE(problem.name());
    if (!is_solved) CHECK_FALSE(outcome.checked.verdict == PointCheck::Verdict::unknown);
  }
  std::ranges::sort(tally.evaluations);
  return tally;
}

Problem decay(const Loss& loss = {}) {
  DataTable table{.columns = {"t", "y"}, .rows = Matrix(8, 2)};
  table.rows << 0, 5.02, 1, 3.68, 2, 2.79, 3, 2.11, 4, 9, 5, 1.27, 6, 1.06, 7, 0.86; // the fifth is thrown off
  ProblemDefinition definition{
      .name = "decay",
      .variables = {{.name = "a", .start = {1}, .lower = 0}, {.name = "b", .start = {1}, .lower = 0.28, .upper = 5}}};
  definition.fit = FitDefinition{.data = "decay.csv",
                                 .equations = {{.model = "y = a*exp(-b*t)"}},
                                 .loss = loss,
                                 .table = std::make_shared<DataTable>(std::move(table))};
  return build_problem(definition);
}

} // namespace

TEST_SUITE("methods for fits") {
  TEST_CASE("the trust regions solve the sums of squares of 1981 from their standard starts, the line search most") {
    for (const auto& [name, least] : {std::pair{"levenberg-marquardt", 34}, {"dogleg", 34}, {"gauss-newton", 28}}) {
      CAPTURE(name);
      const FitTally tally = solve_fits(name);
      CAPTURE(tally.missed);
      CHECK(tally.problems == 34);
      CHECK(tally.solved >= least);
      CHECK(tally.evaluations[tally.evaluations.size() / 2] <= 20);
    }
  }

  TEST_CASE("all agree on a robust fit within bounds, of which one holds") {
    const Problem robust = decay(Loss::parse("huber:0.1"));
    const double value = run(robust, method("lbfgs-bounded")).value;
    for (const char* name : {"levenberg-marquardt", "dogleg", "gauss-newton"}) {
      CAPTURE(name);
      const Outcome outcome = run(robust, method(name), {.stop = {.gradient_tolerance = 1e-9}});
      CHECK(outcome.converged());
      CHECK(outcome.value <= value + 1e-8);
      CHECK(outcome.events.outside_bounds == 0);
      CHECK(outcome.point[1] == doctest::Approx(0.28).epsilon(1e-3));
    }
  }

  TEST_CASE("the dogleg tells where on its pieces it steps, and ends with whole steps") {
    const Outcome outcome = run(testbed::problem("rosenbrock-pairs", 2), method("dogleg", {{"factor", 0.1}}));
    std::vector<double> parts = outcome.trace.column("part");
    std::erase_if(parts, [](double part) { return std::isnan(part); });
    REQUIRE(parts.size() > 3);
    CHECK(*std::ranges::min_element(parts) < 2);
    CHECK(parts.back() == 2);
    CHECK(outcome.value <= 1e-20);
  }

  TEST_CASE("no line search that has only become short is called an end") {
    const Outcome outcome = run(testbed::problem("jennrich-sampson"), method("gauss-newton"));
    CHECK_FALSE(outcome.converged());
    CHECK((outcome.status == Status::stalled || outcome.value <= 124.4));
  }
}
