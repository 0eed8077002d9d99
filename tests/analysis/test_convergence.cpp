#include "tanzen/analysis/convergence.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <functional>

using namespace tanzen;

namespace {

/// A trace whose gradient norms are a sequence made up here.
Trace trace_of(int rows, const std::function<double(int)>& norm) {
  std::vector<double> cells;
  for (int k = 0; k < rows; ++k) {
    std::vector<double> row(Trace::fixed_columns, 0.0);
    row[Trace::iteration] = k;
    row[Trace::gradient_norm] = norm(k);
    cells.insert(cells.end(), row.begin(), row.end());
  }
  return {{}, {}, false, std::move(cells)};
}

PathCharacter character_of(double step) {
  const Problem bowl = Problem::from_formula("2*(x - 1)^2 + 0.7*(y + 2)^2");
  const Outcome outcome = run(
      bowl, method("gradient-descent", {{"step", step}}),
      {.start = Coordinates{6, -9}, .stop = {.iterations = 40, .gradient_tolerance = {}}, .trace = {.points = true}});
  return path_character(outcome.trace, outcome.converged(), 1);
}

} // namespace

TEST_SUITE("convergence") {
  TEST_CASE("sequences of known order are told apart") {
    const auto linear = convergence_of(trace_of(30, [](int k) { return 3 * std::pow(0.7, k); }));
    REQUIRE(linear.has_value());
    CHECK(linear->order == ConvergenceOrder::linear);
    CHECK(linear->rate == doctest::Approx(0.7).epsilon(1e-9));
    const auto quadratic = convergence_of(trace_of(6, [](int k) { return std::pow(0.5, std::pow(2, k)); }));
    REQUIRE(quadratic.has_value());
    CHECK(quadratic->order == ConvergenceOrder::quadratic);
    CHECK(quadratic->exponent == doctest::Approx(2).epsilon(1e-9));
    const auto superlinear = convergence_of(trace_of(12, [](int k) { return 1 / std::tgamma(2.0 * k + 1); }));
    REQUIRE(superlinear.has_value());
    CHECK(superlinear->order == ConvergenceOrder::superlinear);
  }

  TEST_CASE("what does not support an order gets none") {
    CHECK_FALSE(convergence_of(trace_of(5, [](int k) { return std::pow(0.7, k); })).has_value()); // too few
    CHECK_FALSE(convergence_of(trace_of(30, [](int) { return 1.0; })).has_value());               // no progress
    CHECK_FALSE(convergence_of(trace_of(30, [](int k) { return 1.0 / (k + 1); })).has_value());   // sublinear
    CHECK_FALSE(convergence_of(trace_of(30, [](int k) { return 2 + std::sin(3.0 * k); })).has_value());
    CHECK_FALSE(convergence_of(trace_of(30, [](int) { return NAN; })).has_value());
    CHECK_FALSE(convergence_of(Trace()).has_value());
  }

  TEST_CASE("methods converge as their theory says") {
    const Problem valley = testbed::problem("rosenbrock", 2);
    const auto order = [&](const char* name) {
      const auto convergence = convergence_of(run(valley, method(name), {.start = Coordinates{-1.2, 1}}).trace);
      REQUIRE(convergence.has_value());
      return convergence->order;
    };
    CHECK(order("newton") == ConvergenceOrder::quadratic);
    CHECK(order("newton-trust-region") == ConvergenceOrder::quadratic);
    CHECK(order("bfgs") == ConvergenceOrder::superlinear);
    const Outcome fixed = run(testbed::problem("ellipsoid", 2, {{"condition", 10}}),
                              method("gradient-descent", {{"step", 0.05}}), {.start = Coordinates{3, 2}});
    const auto linear = convergence_of(fixed.trace);
    REQUIRE(linear.has_value());
    CHECK(linear->order == ConvergenceOrder::linear);
    CHECK(linear->rate == doctest::Approx(0.9).epsilon(1e-6)); // 1 - 0.05 * 2
  }

  TEST_CASE("four steps on a bowl leave, flip, go home and crawl") {
    CHECK(character_of(0.52) == PathCharacter::leaves);
    CHECK(character_of(0.485) == PathCharacter::flips);
    CHECK(character_of(0.3) == PathCharacter::goes_home);
    CHECK(character_of(0.01) == PathCharacter::crawls);
  }
}
