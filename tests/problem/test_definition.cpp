#include "tanzen/base/errors.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/problem/definition.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <functional>
#include <memory>
#include <string>

using namespace tanzen;

namespace {

std::vector<Objective> minimize(const char* formula) {
  return {{.text = formula}};
}

ProblemDefinition bowl_definition() {
  ProblemDefinition definition{.name = "bowl", .objectives = minimize("x^2 + 2*y^2")};
  definition.variables = {{.name = "x"}, {.name = "y"}};
  return definition;
}

/// What building says of a definition that was changed.
std::string complaint(const std::function<void(ProblemDefinition&)>& change) {
  ProblemDefinition definition = bowl_definition();
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
    ProblemDefinition definition = bowl_definition();
    definition.variables = {{.name = "y"}, {.name = "w", .count = 3}, {.name = "x"}};
    definition.objectives = minimize("x*x + y*y + sum(i = 1..3, w[i]^2)");
    CHECK(build_problem(definition).variable_names() == std::vector<std::string>{"y", "w1", "w2", "w3", "x"});
  }

  TEST_CASE("a start, bounds and a region are for all elements of a vector, or a start for each") {
    ProblemDefinition definition{.objectives = minimize("sum(i = 1..3, w[i]^2)")};
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
    ProblemDefinition definition = bowl_definition();
    definition.parameters = {{"a", 3}};
    definition.terms = {{"u", "a*x"}, {"v", "u + y"}};
    definition.objectives = minimize("u*v");
    const Problem problem = build_problem(definition);
    CHECK(problem.value({2, 5}) == 6 * 11);
    CHECK(problem.gradient({2, 5})[0] == 2 * 9 * 2 + 3 * 5); // 9 x^2 + 3 x y
  }

  TEST_CASE("a constraint is a row with limits, whichever way round it was written") {
    ProblemDefinition definition = bowl_definition();
    definition.constraints = {{"most", "x + y <= 4"},          {"least", "1 <= x*y"}, {"shelf", "x = 2*y"},
                              {"band", "0.2 <= x - y <= 0.8"}, {"turned", "3 >= x"},  {"both", "x >= y"}};
    const Problem problem = build_problem(definition);
    REQUIRE(problem.constraints().size() == 6);
    const double lower[] = {-infinity, 1, 0, 0.2, -infinity, 0}, upper[] = {4, infinity, 0, 0.8, 3, infinity};
    const Vector values = problem.constraint_values({1.5, 0.75}), expected{{2.25, 1.125, 0, 0.75, 1.5, 0.75}};
    for (std::size_t k = 0; k < 6; ++k) {
      CAPTURE(problem.constraints()[k].name);
      CHECK(problem.constraints()[k].lower == lower[k]);
      CHECK(problem.constraints()[k].upper == upper[k]);
      CHECK(values[static_cast<Index>(k)] == doctest::Approx(expected[static_cast<Index>(k)]));
    }
    CHECK(problem.constraints()[2].is_equality());
    CHECK(problem.constraints()[1].text == "1 <= x*y");
    CHECK(problem.violation({1.5, 0.75}) == 0);
    CHECK(problem.violation({4, 0.1}) == doctest::Approx(3.8)); // the equality, by most
  }

  TEST_CASE("a maximum is read in its own sense, with the known one") {
    ProblemDefinition definition = bowl_definition();
    definition.objectives = {{.sense = Sense::maximize, .text = "-(x - 1)^2 - y^2 + 7"}};
    definition.minima = {{.point = Vector{{1, 0}}, .value = 7}};
    const Problem problem = build_problem(definition);
    CHECK(problem.sense() == Sense::maximize);
    CHECK(problem.value({1, 0}) == 7);
    CHECK(problem.best_known() == 7);
  }

  TEST_CASE("a fit sums squares of residuals over rows, whose names are columns") {
    ProblemDefinition definition{.name = "line"};
    definition.variables = {{.name = "slope"}, {.name = "offset"}};
    const auto table = std::make_shared<DataTable>(DataTable{{"hour", "celsius"}, Matrix{{0, 1}, {1, 3}, {2, 6}}});
    definition.fit =
        FitDefinition{.data = "t.csv", .equations = {{.residual = "slope*hour + offset - celsius"}}, .table = table};
    const Problem problem = build_problem(definition);
    CHECK(problem.value({2, 1}) == doctest::Approx(1)); // residuals 0, 0, -1
    CHECK(problem.parts().residuals == 3);
    FitEquation& equation = definition.fit->equations.front();
    equation = {.model = "celsius = slope*hour + offset"};
    CHECK(build_problem(definition).value({2, 1}) == problem.value({2, 1}));
    equation.errors = "0.5";
    CHECK(build_problem(definition).value({2, 1}) == doctest::Approx(4));
    definition.fit->loss = Loss::parse("huber:1");
    CHECK(build_problem(definition).value({2, 1}) == doctest::Approx(3)); // 2*1*2 - 1
    // The normal equations by hand: slope 5/2, offset 5/6.
    CHECK(problem.gradient({2.5, 5.0 / 6}).norm() < 1e-12);
  }

  TEST_CASE("written out and built again it is the same problem") {
    ProblemDefinition definition = bowl_definition();
    definition.title = "a bowl";
    definition.variables[0].unit = "m";
    definition.variables[0].lower = -1;
    definition.variables[1].region = {-3, 3};
    definition.parameters = {{"a", 0.1}};
    definition.objectives = minimize("a*x^2 + 2*y^2 - exp(x*y)");
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
    CHECK(says(complaint([](auto& d) { d.objectives = minimize("x^2 + z"); }), "'z'"));
    CHECK(says(complaint([](auto& d) { d.variables.push_back({.name = "x"}); }), "x"));
    CHECK(says(complaint([](auto& d) { d.variables[0].lower = 2, d.variables[0].upper = 1; }), "x"));
    CHECK(says(complaint([](auto& d) { d.variables[0].start = {1, 2}; }), "x"));
    CHECK(
        says(complaint([](auto& d) { d.variables[0].start = {1}; }), "some variables have a start and some have none"));
    CHECK(says(complaint([](auto& d) { d.parameters = {{"x", 1}}; }), "x"));
    CHECK(says(complaint([](auto& d) {
                 d.terms = {{"u", "v + 1"}, {"v", "u"}}, d.objectives = minimize("u");
               }),
               "defined by itself"));
    CHECK(says(complaint([](auto& d) { d.constraints = {{"c", "x + y"}}; }), "c"));
    CHECK(says(complaint([](auto& d) { d.minima = {{.point = Vector{{1}}, .value = 0}}; }), "2"));
    CHECK(says(complaint([](auto& d) { d.objectives.clear(); }), "objective"));
    CHECK(says(complaint([](auto& d) { d.program = ProgramDefinition{.command = {"trial"}}; }), "program"));
    CHECK(says(complaint([](auto& d) { d.fit = FitDefinition{.data = "t.csv", .equations = {{.residual = "x"}}}; }),
               "fit"));
  }
}
