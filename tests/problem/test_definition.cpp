#include "tanzen/base/errors.hpp"
#include "tanzen/problem/definition.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <functional>
#include <string>

using namespace tanzen;

namespace {

ProblemDefinition bowl() {
  ProblemDefinition definition{.name = "bowl", .objectives = {"x^2 + 2*y^2"}};
  definition.variables = {{.name = "x"}, {.name = "y"}};
  return definition;
}

/// What building says of a definition that was changed.
std::string complaint(const std::function<void(ProblemDefinition&)>& change) {
  ProblemDefinition definition = bowl();
  change(definition);
  try {
    (void)build_problem(definition);
  } catch (const InputError& error) {
    return error.what();
  }
  return "built";
}

bool says(const std::string& text, const char* part) {
  return text.find(part) != std::string::npos;
}

} // namespace

TEST_SUITE("definitions") {
  TEST_CASE("variables stand in the order written, a vector in its own") {
    ProblemDefinition definition = bowl();
    definition.variables = {{.name = "y"}, {.name = "w", .count = 3}, {.name = "x"}};
    definition.objectives = {"x^2 + y^2 + sum(i = 1..3, w[i]^2)"};
    CHECK(build_problem(definition).variable_names() == std::vector<std::string>{"y", "w1", "w2", "w3", "x"});
  }

  TEST_CASE("a start, bounds and a region are for all elements of a vector, or a start for each") {
    ProblemDefinition definition{.objectives = {"sum(i = 1..3, w[i]^2)"}};
    definition.variables = {{.name = "w", .count = 3, .start = {1, 2, 3}, .lower = 0, .upper = 5}};
    Problem problem = build_problem(definition);
    CHECK(*problem.start() == Vector{{1, 2, 3}});
    CHECK(problem.bounds().upper() == Vector::Constant(3, 5));
    CHECK(problem.region().upper == Vector::Constant(3, 5)); // falls back on the bounds
    definition.variables[0].start = {4};
    definition.variables[0].region = {1, 2};
    problem = build_problem(definition);
    CHECK(*problem.start() == Vector::Constant(3, 4));
    CHECK(problem.region().upper == Vector::Constant(3, 2));
  }

  TEST_CASE("terms may use parameters, variables and each other") {
    ProblemDefinition definition = bowl();
    definition.parameters = {{"a", 3}};
    definition.terms = {{"u", "a*x"}, {"v", "u + y"}};
    definition.objectives = {"u*v"};
    const Problem problem = build_problem(definition);
    CHECK(problem.value({2, 5}) == 6 * 11);
    CHECK(problem.gradient({2, 5})[0] == 2 * 9 * 2 + 3 * 5); // 9 x^2 + 3 x y
  }

  TEST_CASE("a constraint is at most zero or equal to zero, whichever way round it was written") {
    ProblemDefinition definition = bowl();
    definition.constraints = {{"most", "x + y <= 4"}, {"least", "x*y >= 1"}, {"shelf", "x = 2*y"}};
    const Problem problem = build_problem(definition);
    REQUIRE(problem.constraints().size() == 3);
    const auto value = [&](std::size_t k, const Vector& x) {
      return problem.constraints()[k].function->worker()->value(x);
    };
    const Vector inside{{1.5, 0.75}}, outside{{4, 0.1}};
    CHECK(value(0, inside) == doctest::Approx(-1.75));
    CHECK(value(0, outside) == doctest::Approx(0.1));
    CHECK(value(1, inside) == doctest::Approx(1 - 1.125)); // feasible is at most zero
    CHECK(value(1, outside) == doctest::Approx(0.6));
    CHECK(value(2, inside) == doctest::Approx(0));
    CHECK(problem.constraints()[2].kind == ConstraintKind::equality);
    CHECK(problem.constraints()[0].kind == ConstraintKind::at_most_zero);
    CHECK(problem.constraints()[1].text == "x*y >= 1");
  }

  TEST_CASE("a maximum is read in its own sense, with the known one") {
    ProblemDefinition definition = bowl();
    definition.sense = Sense::maximize;
    definition.objectives = {"-(x - 1)^2 - y^2 + 7"};
    definition.minima = {{.point = Vector{{1, 0}}, .value = 7}};
    const Problem problem = build_problem(definition);
    CHECK(problem.sense() == Sense::maximize);
    CHECK(problem.value({1, 0}) == 7);
    CHECK(problem.best_known() == 7);
  }

  TEST_CASE("a fit sums squares of residuals over rows, whose names are columns") {
    ProblemDefinition definition{.name = "line"};
    definition.variables = {{.name = "slope"}, {.name = "offset"}};
    definition.fit = FitDefinition{.data = "t.csv",
                                   .residual = "slope*hour + offset - celsius",
                                   .columns = {"hour", "celsius"},
                                   .rows = {{0, 1}, {1, 3}, {2, 6}}};
    const Problem problem = build_problem(definition);
    CHECK(problem.value({2, 1}) == doctest::Approx(1)); // residuals 0, 0, -1
    REQUIRE(problem.residuals() != nullptr);
    // The normal equations by hand: slope 5/2, offset 5/6.
    CHECK(problem.gradient({2.5, 5.0 / 6}).norm() < 1e-12);
  }

  TEST_CASE("written out and built again it is the same problem") {
    ProblemDefinition definition = bowl();
    definition.title = "a bowl";
    definition.variables[0].unit = "m";
    definition.variables[0].lower = -1;
    definition.variables[1].region = {-3, 3};
    definition.parameters = {{"a", 0.1}};
    definition.objectives = {"a*x^2 + 2*y^2 - exp(x*y)"};
    const Problem problem = build_problem(definition), again = build_problem(definition_of(problem));
    for (const Vector& x : {Vector{{0.3, -0.7}}, Vector{{1, 1}}, Vector{{-0.5, 2}}}) {
      CHECK(again.value(x) == problem.value(x));
      CHECK(again.gradient(x) == problem.gradient(x));
    }
    CHECK(again.title() == "a bowl");
    CHECK(again.variables()[0].unit == "m");
    CHECK(again.bounds().lower() == problem.bounds().lower());
    CHECK(again.region().lower == problem.region().lower);
  }

  TEST_CASE("what cannot be built says which part is wrong") {
    CHECK(complaint([](auto&) {}) == "built");
    CHECK(says(complaint([](auto& d) { d.objectives = {"x^2 + z"}; }), "'z'"));
    CHECK(says(complaint([](auto& d) { d.variables.push_back({.name = "x"}); }), "x"));
    CHECK(says(complaint([](auto& d) { d.variables[0].lower = 2, d.variables[0].upper = 1; }), "x"));
    CHECK(says(complaint([](auto& d) { d.variables[0].start = {1, 2}; }), "x"));
    CHECK(
        says(complaint([](auto& d) { d.variables[0].start = {1}; }), "some variables have a start and some have none"));
    CHECK(says(complaint([](auto& d) { d.parameters = {{"x", 1}}; }), "x"));
    CHECK(says(complaint([](auto& d) {
                 d.terms = {{"u", "v + 1"}, {"v", "u"}}, d.objectives = {"u"};
               }),
               "defined by itself"));
    CHECK(says(complaint([](auto& d) { d.constraints = {{"c", "x + y"}}; }), "c"));
    CHECK(says(complaint([](auto& d) { d.minima = {{.point = Vector{{1}}, .value = 0}}; }), "2"));
    CHECK(says(complaint([](auto& d) { d.objectives.clear(); }), "objective"));
    CHECK(says(complaint([](auto& d) { d.program = ProgramDefinition{.command = {"trial"}}; }), "program"));
    CHECK(says(complaint([](auto& d) { d.fit = FitDefinition{.data = "t.csv", .residual = "x"}; }), "fit"));
  }
}
