#include "tanzen/analysis/stationary_points.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

using namespace tanzen;

namespace {

using enum PointKind;

struct Expected {
  std::vector<double> point;
  PointKind kind;
  double value;
  std::vector<double> multipliers = {};
};

struct Case {
  std::string formula;
  std::vector<std::string> relations;
  std::vector<double> lower, upper; ///< of the region
  std::vector<Expected> points;
};

Problem problem_of(const Case& each) {
  Problem problem = Problem::from_formula(each.formula).region(each.lower, each.upper);
  for (std::size_t k = 0; k < each.relations.size(); ++k)
    problem = problem.with_constraint("c" + std::to_string(k + 1), each.relations[k]);
  return problem;
}

std::vector<Case> cases() {
  const double root2 = std::numbers::sqrt2, root3 = std::numbers::sqrt3, root29 = std::sqrt(29.0);
  const double half = root2 / 2, quarter_turn = std::numbers::pi / 2;
  std::vector<Case> all = {
      {"x*y",
       {"x^2 + y^2 = 2"},
       {-3, -3},
       {3, 3},
       {{{1, 1}, maximum, 1, {0.5}},
        {{-1, -1}, maximum, 1, {0.5}},
        {{1, -1}, minimum, -1, {-0.5}},
        {{-1, 1}, minimum, -1, {-0.5}}}},
      {"x + y",
       {"x^2 + y^2 = 1"},
       {-2, -2},
       {2, 2},
       {{{half, half}, maximum, root2, {half}}, {{-half, -half}, minimum, -root2, {-half}}}},
      {"x^2 + 2*y^2",
       {"x^2 + y^2 = 1"},
       {-2, -2},
       {2, 2},
       {{{1, 0}, minimum, 1, {1}}, {{-1, 0}, minimum, 1, {1}}, {{0, 1}, maximum, 2, {2}}, {{0, -1}, maximum, 2, {2}}}},
      {"x + 2*y + 2*z",
       {"x^2 + y^2 + z^2 = 9"},
       {-4, -4, -4},
       {4, 4, 4},
       {{{1, 2, 2}, maximum, 9, {0.5}}, {{-1, -2, -2}, minimum, -9, {-0.5}}}},
      {"x^2 + y^2",
       {"x^2/4 + y^2 = 1"},
       {-3, -3},
       {3, 3},
       {{{2, 0}, maximum, 4, {4}}, {{-2, 0}, maximum, 4, {4}}, {{0, 1}, minimum, 1, {1}}, {{0, -1}, minimum, 1, {1}}}},
      {"x + 2*y + 3*z",
       {"x - y + z = 1", "x^2 + y^2 = 1"},
       {-4, -4, -4},
       {4, 4, 4},
       {{{-2 / root29, 5 / root29, 1 + 7 / root29}, maximum, 3 + root29, {3, root29 / 2}},
        {{2 / root29, -5 / root29, 1 - 7 / root29}, minimum, 3 - root29, {3, -root29 / 2}}}},
      {"x^2 - y^2", {}, {-2, -2}, {2, 2}, {{{0, 0}, saddle, 0}}},
      {"x^3 - 3*x + y^2", {}, {-3, -3}, {3, 3}, {{{1, 0}, minimum, -2}, {{-1, 0}, saddle, 2}}},
      {"x^4 - 2*x^2 + y^2", {}, {-2, -2}, {2, 2}, {{{0, 0}, saddle, 0}, {{1, 0}, minimum, -1}, {{-1, 0}, minimum, -1}}},
      {"x^2 + y^2 + z^2", {"x + 2*y + 3*z = 14"}, {-9, -9, -9}, {9, 9, 9}, {{{1, 2, 3}, minimum, 14, {2}}}},
      {"x^2 + y^2", {"x*y = 1"}, {-4, -4}, {4, 4}, {{{1, 1}, minimum, 2, {2}}, {{-1, -1}, minimum, 2, {2}}}},
      {"sin(x) + sin(y)",
       {},
       {0, 0},
       {6.2, 6.2},
       {{{quarter_turn, quarter_turn}, maximum, 2},
        {{3 * quarter_turn, 3 * quarter_turn}, minimum, -2},
        {{quarter_turn, 3 * quarter_turn}, saddle, 0},
        {{3 * quarter_turn, quarter_turn}, saddle, 0}}},
      {"x*exp(-x^2 - y^2)",
       {},
       {-2, -2},
       {2, 2},
       {{{half, 0}, maximum, half * std::exp(-0.5)}, {{-half, 0}, minimum, -half * std::exp(-0.5)}}},
      {"(x - 1)^2 + y^2",
       {"x^2 + y^2 = 4"},
       {-3, -3},
       {3, 3},
       {{{2, 0}, minimum, 1, {0.5}}, {{-2, 0}, maximum, 9, {1.5}}}},
  };
  Case cube{"x*y*z", {"x^2 + y^2 + z^2 = 3"}, {-2, -2, -2}, {2, 2, 2}, {}};
  for (const double a : {-1.0, 1.0}) {
    for (const double b : {-1.0, 1.0}) {
      for (const double c : {-1.0, 1.0})
        cube.points.push_back({{a, b, c}, a * b * c > 0 ? maximum : minimum, a * b * c, {0.5 * a * b * c}});
    }
    for (std::size_t k = 0; k < 3; ++k) {
      std::vector<double> point(3, 0.0);
      point[k] = a * root3;
      cube.points.push_back({point, saddle, 0, {0}});
    }
  }
  all.push_back(std::move(cube));
  return all;
}

} // namespace

TEST_SUITE("stationary points") {
  TEST_CASE("fifteen functions with known lists: all points, kinds and multipliers, and none besides") {
    const auto all = cases();
    CHECK(all.size() >= 15);
    for (const Case& each : all) {
      CAPTURE(each.formula);
      for (const std::uint64_t seed : {1U, 2U, 3U}) {
        const StationaryPoints found = stationary_points(problem_of(each), {.seed = seed});
        CHECK(found.points.size() == each.points.size());
        CHECK_FALSE(found.complete);
        for (const Expected& expected : each.points) {
          const Vector point = Coordinates(expected.point).vector();
          CAPTURE(point_text(point));
          const auto there = std::ranges::find_if(
              found.points, [&](const StationaryPoint& one) { return (one.point - point).norm() <= 1e-8; });
          REQUIRE(there != found.points.end());
          CHECK(std::abs(there->value - expected.value) <= 1e-8);
          CHECK(there->curvature.kind == expected.kind);
          REQUIRE(there->multipliers.size() == static_cast<Index>(expected.multipliers.size()));
          for (std::size_t k = 0; k < expected.multipliers.size(); ++k)
            CHECK(std::abs(there->multipliers[static_cast<Index>(k)] - expected.multipliers[k]) <= 1e-8);
        }
      }
    }
  }

  TEST_CASE("the nine of himmelblau: four minima, four saddles, one maximum") {
    const StationaryPoints found = stationary_points(testbed::problem("himmelblau"));
    REQUIRE(found.points.size() == 9);
    const auto count = [&](PointKind kind) {
      return std::ranges::count_if(found.points, [&](const auto& one) { return one.curvature.kind == kind; });
    };
    CHECK(count(minimum) == 4);
    CHECK(count(saddle) == 4);
    CHECK(count(maximum) == 1);
    CHECK(found.points.back().value == doctest::Approx(181.616).epsilon(1e-5));
  }

  TEST_CASE("what has none is said to have none found, and nothing is claimed of completeness") {
    const StationaryPoints found = stationary_points(Problem::from_formula("x + exp(y)"));
    CHECK(found.points.empty());
    CHECK_FALSE(found.complete);
    CHECK(found.how.find("does not prove") != std::string::npos);
  }

  TEST_CASE("points on bounds are counted, not listed") {
    const Problem problem = Problem::from_formula("x^2 + y^2").bounds({0, -1}, {2, 1});
    const StationaryPoints found = stationary_points(problem);
    CHECK(found.points.empty());
    CHECK(found.outside == 1);
  }

  TEST_CASE("the equations are those of the Lagrangian, and parse") {
    const Problem problem = Problem::from_formula("x*y").with_constraint("rim", "x^2 + y^2 = 2");
    const auto lines = stationary_equations(problem);
    REQUIRE(lines.size() == 4);
    const Problem lagrangian = Problem::from_formula(lines[0], {"x", "y", "m1"});
    CHECK(lagrangian.value({3, 5, 0.5}) == doctest::Approx(15 - 0.5 * 32));
    const Problem by_x = Problem::from_formula(lines[1].substr(0, lines[1].find(" = ")), {"x", "y", "m1"});
    CHECK(by_x.value({3, 5, 0.5}) == doctest::Approx(5 - 0.5 * 6));
  }

  TEST_CASE("what it cannot do it says, with what would be right") {
    const Problem bowl = Problem::from_formula("x^2 + y^2");
    CHECK_THROWS_WITH_AS((void)stationary_points(bowl.with_constraint("half", "x >= 1")),
                         doctest::Contains("half of x^2 + y^2 is an inequality: write it with ="), ProblemError);
    CHECK_THROWS_WITH_AS(
        (void)stationary_points(
            bowl.with_constraint("a", "x = 1").with_constraint("b", "y = 1").with_constraint("c", "x*y = 1")),
        doctest::Contains("3 equality constraints and only 2 variables"), ProblemError);
    CHECK_THROWS_WITH_AS((void)stationary_points(Problem::black_box(2, [](const Vector& x) { return x.sum(); })),
                         doctest::Contains("need exact second derivatives"), ProblemError);
  }
}
