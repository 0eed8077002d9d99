#include "tanzen/analysis/point_kind.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/differences.hpp"
#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <set>

using namespace tanzen;

namespace {

/// The smallest problem, the usual one, and a larger one where there is.
std::vector<Problem> sizes_of(const testbed::TestFunction& function) {
  constexpr Index larger = 8; // a multiple of every group's size
  std::set<Index> sizes{function.dimensions.least, function.dimensions.usual,
                        std::min(function.dimensions.most, larger)};
  std::vector<Problem> problems;
  for (const Index n : sizes) {
    if (n < function.dimensions.least) continue;
    // What is rough at every scale has waves finer than any difference: it is checked with fewer levels.
    const bool is_rough =
        std::ranges::find(function.options, "levels", &testbed::Option::name) != function.options.end();
    problems.push_back(
        testbed::problem(function.name, n, is_rough ? testbed::OptionValues{{"levels", 4}} : testbed::OptionValues{}));
  }
  return problems;
}

bool has_trait(const testbed::TestFunction& function, testbed::Trait trait) {
  return std::ranges::find(function.traits, trait) != function.traits.end();
}

/// Whether a derivative is that of the function: 1e-7 relative, or as near as the differences settle and
/// rounding lets them.
bool is_derivative(double derivative, const testing::Difference& difference, double scale) {
  const double allowed = 1e-7 * std::max(std::abs(difference.value), 1e-3 * scale) + 10 * difference.error;
  return std::abs(derivative - difference.value) <= allowed + 1e-9;
}

} // namespace

TEST_SUITE("testbed") {
  TEST_CASE("there are at least 130 functions, each with a whole card") {
    std::set<std::string> names;
    for (const auto& function : testbed::all()) {
      CAPTURE(function.name);
      CHECK(names.insert(function.name).second);
      for (const std::string& text : {function.title, function.formula, function.source}) CHECK_FALSE(text.empty());
      CHECK_FALSE(function.traits.empty());
      CHECK_FALSE(
          (has_trait(function, testbed::Trait::smooth) && has_trait(function, testbed::Trait::non_differentiable)));
      CHECK_FALSE((has_trait(function, testbed::Trait::unimodal) && has_trait(function, testbed::Trait::multimodal)));
      CHECK(function.dimensions.least <= function.dimensions.usual);
      CHECK(function.dimensions.usual <= function.dimensions.most);
      const Problem problem = testbed::problem(function.name);
      CHECK(problem.name() == function.name);
      CHECK((problem.region().width().array() > 0).all());
      CHECK(problem.best_value().has_value());
      if (problem.start()) CHECK_NOTHROW(problem.check_start(*problem.start()));
    }
    CHECK(names.size() >= 130);
  }

  TEST_CASE("every gradient equals the difference of eighth order at 100 random points") {
    for (const auto& function : testbed::all()) {
      for (const Problem& problem : sizes_of(function)) {
        CAPTURE(problem.name());
        const auto worker = problem.objective().worker();
        const auto value = [&](const Vector& x) { return worker->value(x); };
        // Several objectives have a test of their own; sanitizers need no statistic.
        const Index count = testing::is_sanitized ? 5 : function.objectives ? 20 : 100;
        const Matrix points =
            uniform_points(problem.region(), count, RandomStream(1, {"gradient check", function.name}));
        Index compared = 0, unsettled = 0;
        for (Index k = 0; k < points.cols(); ++k) {
          const Vector x = points.col(k), gradient = problem.gradient(x);
          if (!gradient.allFinite()) continue; // at a kink, or outside the domain
          for (Index i = 0; i < x.size(); ++i, ++compared) {
            const auto slope = testing::eighth_order_difference(value, x, i);
            CHECK(is_derivative(gradient[i], slope, gradient.norm()));
            unsettled += slope.error > 1e-4 * (1 + gradient.norm()) ? 1 : 0;
          }
        }
        CHECK(compared >= count / 2);
        // Differences that do not settle prove nothing: they may be few, but for functions that are rough at every
        // scale.
        CHECK(
            (function.name == "gulf-research" || unsettled <= compared / 5)); // that one has a pole beside most points
      }
    }
  }

  TEST_CASE("every Hessian equals the difference of its gradient, and the product with a direction") {
    for (const auto& function : testbed::all()) {
      if (has_trait(function, testbed::Trait::constrained)) continue;
      const Problem problem = testbed::problem(function.name);
      CAPTURE(problem.name());
      const auto worker = problem.objective().worker();
      const Matrix points = uniform_points(problem.region(), 5, RandomStream(2, {"Hessian check", function.name}));
      for (Index k = 0; k < points.cols(); ++k) {
        const Vector x = points.col(k);
        const Matrix hessian = problem.hessian(x);
        if (!hessian.allFinite()) continue;
        const Vector direction = Vector::LinSpaced(x.size(), -1, 1.5);
        Vector product;
        worker->weighted_hessian_times(x, Vector::Ones(1), direction, product);
        CHECK((hessian * direction - product).norm() <= 1e-10 * (1 + hessian.norm() * direction.norm()));
        const Index i = k % x.size();
        if (has_trait(function, testbed::Trait::non_differentiable)) continue;
        const auto partial = [&](const Vector& p) { return problem.gradient(p)[i]; };
        const auto second = testing::eighth_order_difference(partial, x, i);
        CHECK(is_derivative(hessian(i, i), second, hessian.norm()));
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
          if (!problem.constraints().empty()) continue; // they have a test of their own
          const Vector gradient = problem.gradient(minimum.point);
          const double norm = problem.bounds().projected_gradient_norm(minimum.point, gradient);
          // What the last digits of the point leave of the gradient.
          const Matrix hessian = problem.hessian(minimum.point);
          const double rounding =
              hessian.allFinite() ? 1e-14 * (hessian.cwiseAbs() * minimum.point.cwiseAbs()).norm() : 0;
          const bool is_stationary = norm <= 1e-6 * (1 + std::abs(minimum.value)) + rounding;
          const bool may_have_kink = has_trait(function, testbed::Trait::non_differentiable) || !gradient.allFinite();
          CHECK((is_stationary || may_have_kink));
        }
      }
    }
  }

  TEST_CASE(
      "no point of 20,000, and none reached by local search from the best of them, is better than the best known") {
    for (const auto& function : testbed::all()) {
      if (has_trait(function, testbed::Trait::constrained) || function.objectives) continue;
      const Problem problem = testbed::problem(function.name);
      CAPTURE(problem.name());
      const auto worker = problem.objective().worker();
      const Matrix points =
          latin_hypercube_points(problem.region(), testing::is_sanitized ? 1000 : 20'000, RandomStream(3));
      double best = INFINITY;
      Index best_at = 0;
      for (Index k = 0; k < points.cols(); ++k) {
        const double value = worker->value(points.col(k));
        if (value < best) {
          best = value;
          best_at = k;
        }
      }
      const Box region = problem.region();
      const Problem fenced = problem.bounds(region.lower, region.upper); // the minimum stated is that of the region
      const RunOptions options{.start = Coordinates(Vector(points.col(best_at))), .stop = {.evaluations = 2000}};
      best =
          std::min(best, run(fenced, method("nelder-mead", {{"size", 0.01 * region.width().mean()}}), options).value);
      CHECK(best >= *problem.best_known() - 1e-9 * std::max(1.0, std::abs(*problem.best_known())));
    }
  }

  TEST_CASE("every known minimum under constraints keeps them, with multipliers of their signs, and bends upwards") {
    int looked = 0;
    for (const auto& function : testbed::all()) {
      if (!has_trait(function, testbed::Trait::constrained) || function.objectives) continue;
      const Problem problem = testbed::problem(function.name);
      CAPTURE(problem.name());
      for (const KnownMinimum& minimum : problem.known_minima()) {
        CAPTURE(point_text(minimum.point));
        ++looked;
        CHECK(problem.violation(minimum.point) <= 1e-8);
        const PointCheck checked = check_point(problem, minimum.point);
        CHECK(checked.relative_gradient <= 1e-6);
        const auto curvature = tangent_curvature(problem, minimum.point, checked);
        REQUIRE(curvature);
        CHECK((curvature->kind == PointKind::minimum || curvature->kind == PointKind::degenerate));
      }
    }
    CHECK(looked >= 60);
  }

  TEST_CASE("no point of 20,000 under constraints leads a search to a feasible value below the best known" *
            doctest::skip(testing::is_sanitized)) {
    for (const auto& function : testbed::all()) {
      if (!has_trait(function, testbed::Trait::constrained) || function.objectives) continue;
      const Problem problem = testbed::problem(function.name);
      CAPTURE(problem.name());
      const auto worker = problem.bundle()->worker();
      const Matrix points = latin_hypercube_points(problem.sampling_box(), 20'000, RandomStream(3));
      Matrix parts;
      worker->outputs(points, parts);
      // The lowest values, with what is broken weighed against the spread of values more and more.
      const double spread = std::max(1.0, std::abs(*problem.best_known()));
      for (const double weight : {1.0, 10.0, 1000.0}) {
        Index lowest = 0;
        double least = INFINITY;
        for (Index k = 0; k < points.cols(); ++k) {
          const Vector outputs = parts.col(k);
          const Evaluation at(outputs, problem.parts());
          const double merit = outputs[0] / spread + weight * violation_of(problem.constraints(), at.constraints());
          if (!(merit < least)) continue;
          least = merit;
          lowest = k;
        }
        const RunOptions options{.start = Coordinates(Vector(points.col(lowest))), .stop = {.iterations = 200}};
        const Outcome outcome = run(problem, method("sequential-quadratic"), options);
        if (outcome.violation > 1e-8) continue;
        CHECK(outcome.value >= *problem.best_known() - 1e-6 * spread);
      }
    }
  }

  TEST_CASE("sums of squares have residuals whose squares add up, with their Jacobian") {
    int found = 0;
    for (const auto& function : testbed::all()) {
      const Problem problem = testbed::problem(function.name);
      CHECK((problem.parts().residuals > 0) == (function.residuals || function.fit));
      if (problem.parts().residuals == 0) continue;
      found += static_cast<bool>(function.residuals);
      CAPTURE(function.name);
      const auto worker = problem.bundle()->worker();
      const Vector x = *problem.start();
      Vector values;
      Matrix jacobian;
      worker->outputs(x, values);
      worker->jacobian(x, jacobian);
      CHECK(values.squaredNorm() == doctest::Approx(problem.value(x)).epsilon(1e-12));
      const Vector gradient = problem.gradient(x);
      CHECK((2 * jacobian.transpose() * values - gradient).norm() <= 1e-9 * (1 + gradient.norm()));
    }
    CHECK(found == 34); // problem 1 of the paper is the chained valley
  }

  TEST_CASE("the paper's values at the standard starts") {
    // Moré, Garbow and Hillstrom (1981): by hand from the definitions.
    CHECK(testbed::problem("rosenbrock").value({-1.2, 1}) == doctest::Approx(24.2).epsilon(1e-14));
    CHECK(testbed::problem("freudenstein-roth").value({0.5, -2}) == 400.5);
    CHECK(testbed::problem("helical-valley").value({-1, 0, 0}) == 2500);
    CHECK(testbed::problem("powell-singular").value({3, -1, 0, 1}) == doctest::Approx(215).epsilon(1e-14));
    CHECK(testbed::problem("wood").value({-3, -1, -3, -1}) == doctest::Approx(19192).epsilon(1e-14));
    CHECK(testbed::problem("beale").value({1, 1}) == doctest::Approx(14.203125).epsilon(1e-14));
    CHECK(testbed::problem("brown-badly-scaled").value({1, 1}) == doctest::Approx(999998000003).epsilon(1e-11));
  }

  TEST_CASE("a formula on the card that defines the function reads with the public parser, to the same function") {
    for (const auto& function : testbed::all()) {
      if (function.value || function.residuals || function.fit || function.objectives) continue;
      CAPTURE(function.name);
      std::map<std::string, double> parameters;
      for (const auto& option : function.options) parameters[option.name] = option.usual;
      const Problem formula =
          Problem::from_formula(function.formula, {fmt::format("x[{}]", function.dimensions.usual)}, parameters);
      const Problem problem = testbed::problem(function.name);
      const Vector x = problem.region().lower + 0.37 * problem.region().width();
      CHECK(formula.value(x) == problem.value(x));
    }
  }

  TEST_CASE("names, dimensions and options that cannot be say what would be right") {
    const auto refused = [](const char* specification, const char* says) {
      CAPTURE(specification);
      CHECK_THROWS_WITH_AS((void)testbed::parse_problem(specification), doctest::Contains(says), InputError);
    };
    refused("rosenbrok", "did you mean 'rosenbrock'?");
    refused("himmelblau:dim=3", "himmelblau exists for 2 variables, not for 3");
    refused("rosenbrock:dim=1", "exists for 2 or more variables");
    refused("rosenbrock-pairs:dim=7", "2 or more (in multiples of 2) variables, not for 7");
    refused("rosenbrock:dim=2.5", "whole number");
    refused("sphere:dims=2", "did you mean 'dim'?");
    refused("ellipsoid:condition=0", "must be at least 1");
    refused("ellipsoid:condition=high", "must be a number");
    refused("eggholder:rotate=3", "eggholder has bounds: it can be shifted and biased, not rotated or distorted");
    refused("sphere:stretch=0", "must be at least 1");
  }

  TEST_CASE("a problem's name reads back to the same problem") {
    for (const char* name :
         {"sphere", "ellipsoid:dim=5,condition=100", "rosenbrock:dim=10", "rastrigin:dim=3,rotate=4,shift=0.5"}) {
      const Problem problem = testbed::parse_problem(name);
      const Problem again = testbed::parse_problem(problem.name());
      CHECK(again.name() == problem.name());
      CHECK(again.value(Vector::Ones(problem.dimension()).eval()) ==
            problem.value(Vector::Ones(problem.dimension()).eval()));
    }
    CHECK(testbed::parse_problem("ellipsoid:dim=3,condition=100").hessian({0, 0, 0}).diagonal() ==
          Vector{{2, 20, 200}});
  }
}

TEST_SUITE("transforms") {
  TEST_CASE("known minima and derivatives go along with every transform") {
    for (const char* options : {"shift=1.5", "rotate=3", "stretch=10", "ripple=1", "lean=0.5", "bias=7", "placement=2",
                                "shift=1,rotate=2,stretch=10,ripple=1,lean=0.2,bias=-3"}) {
      for (const char* name : {"rastrigin:dim=3", "rosenbrock:dim=4", "himmelblau", "levy:dim=2", "powell-singular"}) {
        const std::string specification =
            std::string(name) + (std::string(name).find(':') == std::string::npos ? ":" : ",") + options;
        CAPTURE(specification);
        const Problem problem = testbed::parse_problem(specification);
        const bool distorts_in_zero = specification.find("ripple") != std::string::npos; // no second derivative there
        for (const KnownMinimum& minimum : problem.known_minima()) {
          CHECK(problem.value(minimum.point) == doctest::Approx(minimum.value).epsilon(1e-9));
          const Vector gradient = problem.gradient(minimum.point);
          CHECK((distorts_in_zero || gradient.norm() <= 1e-5));
        }
        const auto worker = problem.objective().worker();
        const auto value = [&](const Vector& x) { return worker->value(x); };
        const Matrix points = uniform_points(problem.region(), 10, RandomStream(5));
        for (Index k = 0; k < points.cols(); ++k) {
          const Vector x = points.col(k), slope = problem.gradient(x);
          for (Index i = 0; i < x.size(); ++i)
            CHECK(is_derivative(slope[i], testing::eighth_order_difference(value, x, i), slope.norm()));
        }
      }
    }
  }

  TEST_CASE("a rotation keeps the sphere and the eigenvalues of the ellipsoid") {
    const Problem sphere = testbed::parse_problem("sphere:dim=4,rotate=9"),
                  plain = testbed::parse_problem("sphere:dim=4");
    CHECK(sphere.value({1, 2, 3, 4}) == doctest::Approx(plain.value({1, 2, 3, 4})).epsilon(1e-14));
    const Matrix hessian = testbed::parse_problem("ellipsoid:dim=3,condition=100,rotate=5").hessian({0, 0, 0});
    CHECK(hessian.trace() == doctest::Approx(222).epsilon(1e-12));
    CHECK(std::abs(hessian(0, 1)) > 1);
  }

  TEST_CASE("a placement is reproducible, different from the others, and has its minimum in the region") {
    const auto minimum_of = [](int k) {
      return testbed::problem("rastrigin", 5, {{"placement", k}}).known_minima().front().point;
    };
    CHECK(minimum_of(1) == minimum_of(1));
    CHECK((minimum_of(1) - minimum_of(2)).norm() > 0.1);
    for (int k = 1; k <= 20; ++k) CHECK(testbed::problem("rastrigin", 5).region().contains(minimum_of(k)));
  }

  TEST_CASE("noise is reproducible by seed and number of the evaluation, and has the size asked for") {
    const Problem noisy = testbed::parse_problem("sphere:noise=normal:0.5,bias=3");
    const auto draw = [](const Problem& problem, int count) {
      const auto worker = problem.objective().worker();
      Vector values(count);
      for (double& value : values) value = worker->value(Vector::Zero(2));
      return values;
    };
    const Vector first = draw(noisy, 4000);
    CHECK(first == draw(noisy, 4000));
    CHECK(first != draw(testbed::parse_problem("sphere:noise=normal:0.5,bias=3,noise-seed=2"), 4000));
    CHECK(first.mean() == doctest::Approx(3).epsilon(0.01));
    CHECK(std::sqrt((first.array() - 3).square().mean()) == doctest::Approx(0.5).epsilon(0.05));
    const Vector uniform = draw(testbed::parse_problem("sphere:noise=flat:10%,bias=1"), 1000);
    CHECK(uniform.maxCoeff() <= 1.1);
    CHECK(uniform.minCoeff() >= 0.9);
    CHECK(draw(testbed::parse_problem("sphere:noise=heavy:0.1"), 4000).cwiseAbs().maxCoeff() > 10); // heavy tails
    CHECK(noisy.objective().derivatives() == Derivatives::none);
  }
}
