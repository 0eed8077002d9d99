#include "tanzen/base/errors.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/differences.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <set>

using namespace tanzen;

namespace {

/// The smallest problem, the usual one, and a larger one where there is.
std::vector<Problem> sizes_of(const testbed::TestFunction& function) {
  std::set<Index> sizes{function.dimensions.least, function.dimensions.usual,
                        std::min<Index>(function.dimensions.most, 7)};
  std::vector<Problem> problems;
  for (const Index n : sizes) {
    if (n >= function.dimensions.least) problems.push_back(testbed::problem(function.name, n));
  }
  return problems;
}

bool has_trait(const testbed::TestFunction& function, testbed::Trait trait) {
  return std::ranges::find(function.traits, trait) != function.traits.end();
}

} // namespace

TEST_SUITE("testbed") {
  TEST_CASE("every function has a whole card") {
    std::set<std::string> names;
    for (const auto& function : testbed::all()) {
      CAPTURE(function.name);
      CHECK(names.insert(function.name).second);
      for (const std::string& text : {function.title, function.formula, function.source}) CHECK_FALSE(text.empty());
      CHECK_FALSE(function.traits.empty());
      CHECK(function.dimensions.least <= function.dimensions.usual);
      CHECK(function.dimensions.usual <= function.dimensions.most);
      const Problem problem = testbed::problem(function.name);
      CHECK(problem.name() == function.name);
      CHECK((problem.region().width().array() > 0).all());
      CHECK(problem.best_known().has_value());
    }
  }

  TEST_CASE("every gradient equals the difference of eighth order at 100 random points") {
    for (const auto& function : testbed::all()) {
      for (const Problem& problem : sizes_of(function)) {
        CAPTURE(problem.name());
        CAPTURE(problem.dimension());
        const auto worker = problem.objective().worker();
        const auto value = [&](const Vector& x) { return worker->value(x); };
        const Matrix points = uniform_points(problem.region(), 100, RandomStream(1, {"gradient check", function.name}));
        for (Index k = 0; k < points.cols(); ++k) {
          const Vector x = points.col(k), gradient = problem.gradient(x);
          for (Index i = 0; i < x.size(); ++i) {
            const auto slope = testing::eighth_order_difference(value, x, i);
            // 1e-7 relative; a point so near to a kink or so wavy that no step settles is judged by what it settles to.
            const double allowed =
                1e-7 * std::max(std::abs(slope.value), 1e-3 * gradient.norm()) + 3 * slope.error + 1e-9;
            CHECK(std::abs(gradient[i] - slope.value) <= allowed);
            CHECK(slope.error <= 1e-5 * (1 + gradient.norm()));
          }
        }
      }
    }
  }

  TEST_CASE("every known minimum has its value and is stationary, on the boundary or at a kink") {
    for (const auto& function : testbed::all()) {
      for (const Problem& problem : sizes_of(function)) {
        CAPTURE(problem.name());
        for (const KnownMinimum& minimum : problem.known_minima()) {
          CHECK(std::abs(problem.value(minimum.point) - minimum.value) <=
                1e-9 * std::max(1.0, std::abs(minimum.value)));
          CHECK(problem.region().contains(minimum.point));
          const bool may_have_kink = has_trait(function, testbed::Trait::non_differentiable);
          const Vector gradient = problem.gradient(minimum.point);
          const double norm = problem.bounds().projected_gradient_norm(minimum.point, gradient);
          CHECK((norm <= 1e-6 * (1 + std::abs(minimum.value)) || (may_have_kink && !gradient.allFinite())));
        }
      }
    }
  }

  TEST_CASE("no point of a large sample is better than the best known") {
    for (const auto& function : testbed::all()) {
      const Problem problem = testbed::problem(function.name);
      CAPTURE(problem.name());
      const auto worker = problem.objective().worker();
      const Matrix points = latin_hypercube_points(problem.region(), 20'000, RandomStream(3));
      double best = INFINITY;
      for (Index k = 0; k < points.cols(); ++k) best = std::min(best, worker->value(points.col(k)));
      CHECK(best >= *problem.best_known() - 1e-9);
    }
  }

  TEST_CASE("the formula on the card is the function") {
    for (const auto& function : testbed::all()) {
      CAPTURE(function.name);
      const Index n = function.dimensions.usual;
      std::map<std::string, double> parameters;
      for (const auto& option : function.options) parameters[option.name] = option.usual;
      const Problem formula = Problem::from_formula(function.formula, {fmt::format("x[{}]", n)}, parameters);
      const Problem problem = testbed::problem(function.name);
      const Matrix points = uniform_points(problem.region(), 50, RandomStream(4));
      for (Index k = 0; k < points.cols(); ++k) {
        const Vector x = points.col(k);
        CHECK(formula.value(x) == doctest::Approx(problem.value(x)).epsilon(1e-12));
      }
    }
  }

  TEST_CASE("names, dimensions and options that cannot be say what would be right") {
    CHECK_THROWS_WITH_AS((void)testbed::parse_problem("rosenbrok"), doctest::Contains("did you mean 'rosenbrock'?"),
                         InputError);
    CHECK_THROWS_WITH_AS((void)testbed::parse_problem("himmelblau:dim=3"),
                         doctest::Contains("himmelblau exists for 2 variables, not for 3"), InputError);
    CHECK_THROWS_WITH_AS((void)testbed::parse_problem("rosenbrock:dim=1"),
                         doctest::Contains("exists for 2 or more variables"), InputError);
    CHECK_THROWS_WITH_AS((void)testbed::parse_problem("rosenbrock:dim=2.5"), doctest::Contains("whole number"),
                         InputError);
    CHECK_THROWS_WITH_AS((void)testbed::parse_problem("sphere:dims=2"),
                         doctest::Contains("has no option 'dims' (it has dim)"), InputError);
    CHECK_THROWS_WITH_AS((void)testbed::parse_problem("ellipsoid:condition=0"), doctest::Contains("must be at least 1"),
                         InputError);
    CHECK_THROWS_WITH_AS((void)testbed::parse_problem("ellipsoid:condition=high"),
                         doctest::Contains("must be a number"), InputError);
  }

  TEST_CASE("a problem's name reads back to the same problem") {
    for (const char* name : {"sphere", "ellipsoid:dim=5,condition=100", "rosenbrock:dim=10"}) {
      const Problem problem = testbed::parse_problem(name);
      CHECK(problem.name() == name);
      CHECK(testbed::parse_problem(problem.name()).dimension() == problem.dimension());
    }
    CHECK(testbed::parse_problem("ellipsoid:dim=3,condition=100").hessian({0, 0, 0}).diagonal() ==
          Vector{{2, 20, 200}});
  }
}
