// Places where a method once left its paper, by what that cost.
#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;

namespace {

double median_evaluations(const char* problem, const Method& by, double gap, std::uint64_t runs = 9) {
  std::vector<double> spent;
  for (std::uint64_t repeat = 1; repeat <= runs; ++repeat) {
    const Outcome outcome =
        run(testbed::parse_problem(problem), by, {.seed = 3, .repeat = repeat, .stop = {.gap = gap}});
    spent.push_back(outcome.status == Status::target ? static_cast<double>(outcome.counts[Spent::evaluations]) : 1e9);
  }
  std::ranges::sort(spent);
  return spent[spent.size() / 2];
}

} // namespace

TEST_SUITE("methods as in their papers") {
  TEST_CASE("a pair that limited memory refuses spoils no other one") {
    // Kinks make pairs without curvature; products of pairs that are no longer there would turn the direction.
    for (const char* name : {"largest-coordinate", "sharp-ridge"}) {
      const Problem problem = testbed::problem(name, 5);
      for (const Index memory : {1, 2, 3}) {
        for (std::uint64_t seed = 1; seed <= 5; ++seed) {
          const Outcome outcome = run(problem, method("lbfgs", {{"memory", memory}}),
                                      {.seed = seed, .repeat = 1, .stop = {.evaluations = 500}});
          CAPTURE(std::string(name));
          CHECK(outcome.status != Status::failed);
          CHECK(outcome.value < outcome.start_value);
        }
      }
    }
  }

  TEST_CASE("variables without a slope are free within bounds") {
    // Of largest-coordinate all slopes but one are zero: where those were held, the run stood far from its end.
    for (std::uint64_t seed = 3; seed <= 5; ++seed) {
      const Outcome outcome =
          run(testbed::problem("largest-coordinate", 10), method("lbfgs-bounded"), {.seed = seed, .repeat = 1});
      CAPTURE(seed);
      CHECK(outcome.gap.value_or(1e9) < 30);
    }
    const Problem fenced =
        Problem::from_formula("(x - 1)^2 + (y - 2)^2 + x*y*z^2 + (z - 1)^2").bounds(0, 5).start({3, 0.5, 1});
    const Outcome outcome = run(fenced, method("lbfgs-bounded"));
    CHECK(outcome.converged());
  }

  TEST_CASE("symmetric rank-one shrinks its region late, and finds the curvature that it needs") {
    CHECK(median_evaluations("rosenbrock", method("sr1"), 1e-8) < 120);
    CHECK(median_evaluations("ellipsoid:dim=5,rotate=1", method("sr1"), 1e-8) < 60);
  }

  TEST_CASE("conjugate directions that have become dependent are set anew before the end is claimed") {
    for (std::uint64_t seed = 1; seed <= 3; ++seed) {
      const Outcome outcome = run(testbed::problem("rosenbrock", 10), method("powell"),
                                  {.seed = seed, .repeat = 1, .stop = {.evaluations = 100000}});
      CAPTURE(seed);
      if (outcome.converged()) CHECK(outcome.checked.relative_gradient <= 1e-4);
      CHECK((outcome.converged() || outcome.status == Status::evaluations || outcome.status == Status::method) == true);
    }
    const Outcome valley = run(testbed::problem("rosenbrock"), method("powell"), {.start = {-1.2, 1}});
    CHECK(valley.converged());
  }

  TEST_CASE("where the start is the answer, or there is no value, nothing is called flat") {
    const Problem bowl = Problem::from_formula("x^2 + y^2");
    const Outcome there = run(bowl, method("bfgs"), {.start = {0, 0}});
    for (const std::string& hint : diagnose(bowl, there).hints) CHECK(hint.find("flat") == std::string::npos);
    const Problem nowhere = Problem::from_formula("sqrt(-1 - x^2)");
    const Outcome nothing = run(nowhere, method("nelder-mead"), {.start = {1}, .stop = {.evaluations = 50}});
    for (const std::string& hint : diagnose(nowhere, nothing).hints) CHECK(hint.find("flat") == std::string::npos);
    const Problem plain = Problem::from_formula("floor(x)*0 + 3 + 0*y");
    const Outcome flat = run(plain, method("nelder-mead"), {.start = {1, 1}, .stop = {.evaluations = 50}});
    CHECK(std::isfinite(flat.value));
  }
}
