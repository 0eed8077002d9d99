#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <algorithm>

using namespace tanzen;

namespace {

using Relations = std::vector<std::pair<std::string, std::string>>;

/// Minimize x^2 + y from (2, 1), or from another start, under relations of x and y.
Problem kept(const Relations& relations, const Coordinates& start = {2, 1}) {
  Problem problem = Problem::from_formula("x^2 + y").start(start);
  for (const auto& [name, relation] : relations) problem = problem.with_constraint(name, relation);
  return problem;
}

Diagnosis diagnosed(const Problem& problem, std::string_view name, const RunOptions& options = {}) {
  return diagnose(problem, run(problem, method(name), options));
}

bool has_hint(const Diagnosis& diagnosis, std::string_view part) {
  return std::ranges::any_of(diagnosis.hints, [&](const std::string& hint) { return hint.find(part) != hint.npos; });
}

} // namespace

TEST_SUITE("hints on constraints") {
  TEST_CASE("twenty problems that no point solves end as infeasible, and name the limits in conflict") {
    struct Case {
      Relations relations;
      std::string named;
    };
    const std::vector<Case> cases = {
        {{{"high", "x + y >= 4"}, {"low", "x + y <= 2"}}, "high and low"},
        {{{"high", "x >= 3"}, {"low", "x <= 1"}, {"other", "y >= 0"}}, "high and low"},
        {{{"sum", "x + y >= 6"}, {"left", "x <= 2"}, {"below", "y <= 2"}}, "sum, left and below"},
        {{{"one", "x + y = 1"}, {"two", "x + y = 3"}}, "one and two"},
        {{{"twice", "2*x - y = 0"}, {"again", "2*x - y >= 1"}}, "twice and again"},
        {{{"disc", "x^2 + y^2 <= 1"}, {"far", "x + y >= 4"}}, "disc and far"},
        {{{"disc", "x^2 + y^2 <= 1"}, {"other", "(x - 5)^2 + y^2 <= 4"}}, "disc and other"},
        {{{"bowl", "y >= x^2 + 1"}, {"low", "y <= 0"}}, "bowl and low"},
        {{{"bowl", "y >= x^2 + 1"}, {"dome", "y <= -x^2"}}, "bowl and dome"},
        {{{"never", "x^2 + y^2 <= -1"}}, "never cannot be kept"},
        {{{"never", "exp(x) + exp(-x) <= 1"}}, "never cannot be kept"},
        {{{"between", "1 <= x <= 2"}, {"least", "x - y >= 4"}, {"floor", "y >= 0"}}, "between, least and floor"},
        {{{"left", "x <= -1"}, {"root", "x >= y^2"}}, "left and root"},
        {{{"sine", "y >= 2 + sin(x)"}, {"low", "y <= 0.5"}}, "sine and low"},
        {{{"circle", "x^2 + y^2 = 4"}, {"away", "x >= 3"}}, "circle and away"},
        {{{"ring", "x^2 + y^2 >= 9"}, {"box", "x^2 <= 1"}, {"band", "y^2 <= 1"}}, "ring, box and band"},
        {{{"slope", "y >= 3*x + 5"}, {"down", "y <= -3*x - 5"}, {"right", "x >= 0"}}, "slope, down and right"},
        {{{"sum", "x + 2*y >= 10"}, {"dif", "x - 2*y >= 2"}, {"cap", "x <= 4"}}, "sum, dif and cap"},
        {{{"growth", "y >= exp(x)"}, {"line", "y <= x"}}, "growth and line"},
        {{{"first", "x + y = 2"}, {"second", "x - y = 0"}, {"third", "x = 3"}}, "first, second and third"},
    };
    REQUIRE(cases.size() == 20);
    for (const Case& each : cases) {
      CAPTURE(each.named);
      for (const char* name : {"sequential-quadratic", "interior-point"}) {
        CAPTURE(name);
        const Problem problem = kept(each.relations);
        const Outcome outcome = run(problem, method(name));
        CHECK(outcome.status == Status::infeasible);
        CHECK(has_hint(diagnose(problem, outcome), each.named));
      }
    }
  }

  TEST_CASE("nothing of a conflict is said where the limits can be kept") {
    for (const char* problem : {"hock-schittkowski-12", "hock-schittkowski-43", "hock-schittkowski-71"}) {
      const Diagnosis diagnosis = diagnosed(testbed::problem(problem), "sequential-quadratic");
      CHECK_FALSE(has_hint(diagnosis, "cannot be kept"));
      CHECK_FALSE(has_hint(diagnosis, "the start breaks"));
      CHECK_FALSE(has_hint(diagnosis, "dependent"));
      CHECK_FALSE(has_hint(diagnosis, "times as steep"));
    }
  }

  TEST_CASE("a start that breaks a limit is named with its limit, where the run did not come through") {
    const Problem problem = kept({{"disc", "x^2 + y^2 <= 4"}, {"line", "x >= y"}}, {5, 6});
    const RunOptions one{.stop = {.iterations = 1}};
    CHECK(has_hint(diagnosed(problem, "sequential-quadratic", one), "the start breaks disc by 57"));
    CHECK_FALSE(has_hint(diagnosed(problem, "sequential-quadratic"), "the start breaks"));
  }

  TEST_CASE("active gradients that depend on each other are told") {
    const Problem twice = kept({{"once", "y >= 1"}, {"again", "2*y >= 2"}});
    CHECK(has_hint(diagnosed(twice, "sequential-quadratic"), "the gradients of once and again are dependent"));
    const Problem apart = kept({{"once", "y >= 1"}, {"right", "x >= 1"}});
    CHECK_FALSE(has_hint(diagnosed(apart, "sequential-quadratic"), "dependent"));
  }

  TEST_CASE("rows of very different steepness are told where a run did not come through") {
    const Problem uneven = kept({{"heat", "1e8*(x + y) >= 1e9"}, {"width", "x - y <= 1"}});
    const RunOptions one{.stop = {.iterations = 1}};
    CHECK(has_hint(diagnosed(uneven, "augmented-lagrangian", one), "heat is 1e+08 times as steep as width"));
    CHECK_FALSE(has_hint(diagnosed(uneven, "sequential-quadratic"), "times as steep"));
  }
}
