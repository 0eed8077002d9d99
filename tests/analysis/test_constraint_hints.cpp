#include "support/text.hpp"
#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <algorithm>

using namespace tanzen;
using testing::has_hint;

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

  TEST_CASE("a sign that looks turned is asked after: where it alone keeps the start out and nothing is feasible") {
    const Problem turned = kept({{"floor", "y >= 0"}, {"roof", "x^2 + y <= -1"}});
    CHECK(has_hint(diagnosed(turned, "sequential-quadratic"), "is roof the wrong way round?"));
    const Problem meant = kept({{"floor", "y >= 0"}, {"roof", "x^2 + y >= -1"}});
    CHECK_FALSE(has_hint(diagnosed(meant, "sequential-quadratic"), "wrong way"));
  }

  TEST_CASE("a sign that looks turned is asked after: where the value falls without end") {
    const Problem turned = Problem::from_formula("x + y").start({1, 1}).with_constraint("room", "x + y <= 4");
    CHECK(has_hint(diagnosed(turned, "sequential-quadratic"), "the value falls without end while room"));
    const Problem most = turned.maximized().with_constraint("kept", "x + y >= 1");
    CHECK_FALSE(has_hint(diagnosed(most, "sequential-quadratic"), "without end"));
  }

  TEST_CASE("a sign that looks turned is asked after: where bounds alone hold the answer") {
    const auto kiln = [](const char* capacity) {
      return Problem::from_formula("0.9*r*h + r^2")
          .bounds({0.1, 0.2}, {2, 1.5})
          .start({0.8, 0.6})
          .with_constraint("capacity", capacity);
    };
    CHECK(has_hint(diagnosed(kiln("3*r^2*h <= 0.75"), "sequential-quadratic"), "capacity is far from its limit"));
    CHECK_FALSE(has_hint(diagnosed(kiln("3*r^2*h >= 0.75"), "sequential-quadratic"), "wrong way"));
  }

  TEST_CASE("a limit that restricts nothing, or follows from others, is told, and no limit that does not") {
    const auto within = [](const Relations& relations) { return kept(relations).region({-3, -3}, {3, 3}); };
    const Problem wide = Problem::from_formula("x^2 + y^2")
                             .start({2, 1})
                             .region({-3, -3}, {3, 3})
                             .with_constraint("wide", "x + y >= -9");
    CHECK(has_hint(diagnosed(wide, "sequential-quadratic"), "wide holds at all 2000 points"));
    const Problem nested = within({{"disc", "x^2 + y^2 <= 1"}, {"larger", "x^2 + y^2 <= 2"}});
    CHECK(has_hint(diagnosed(nested, "sequential-quadratic"), "larger holds at all"));
    const Problem needed = within({{"disc", "x^2 + y^2 <= 1"}, {"half", "x >= -0.5"}});
    CHECK_FALSE(has_hint(diagnosed(needed, "sequential-quadratic"), "holds at all"));
  }

  TEST_CASE("no problem of the set is told that its signs are turned") {
    for (const auto& function : testbed::all()) {
      if (!function.constraints || function.objectives) continue;
      CAPTURE(function.name);
      CHECK_FALSE(has_hint(diagnosed(testbed::problem(function.name), "sequential-quadratic"), "wrong way"));
    }
  }

  TEST_CASE("more equalities than variables are counted, where no point keeps them") {
    const Problem over = kept({{"a", "x = 1"}, {"b", "y = 2"}, {"c", "x + y = 5"}});
    const Diagnosis diagnosis = diagnosed(over, "sequential-quadratic");
    CHECK(has_hint(diagnosis, "3 equality constraints for 2 variables"));
    CHECK(has_hint(diagnosis, "a, b and c cannot be kept together"));
    const Problem kept_all = kept({{"a", "x = 1"}, {"b", "y = 2"}, {"c", "x + y = 3"}});
    CHECK_FALSE(has_hint(diagnosed(kept_all, "sequential-quadratic"), "equality constraints for"));
  }
}
