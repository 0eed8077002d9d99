#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <string>
#include <vector>

using namespace tanzen;

namespace {

/// What a value of 1 and a length of 1 are called. Powers of two, so that nothing is rounded on the way.
struct Units {
  double values = 1, lengths = 1;
};

/// A curved valley, of one variable a bowl that leans, told in other units.
Problem valley_in(Index n, Units units) {
  const auto told = [&](const auto& x, Index i) -> Expr { return x[i] / units.lengths; };
  return Problem::from_function(n,
                                [&](const auto& x) {
                                  const Expr first = told(x, 0);
                                  Expr sum = pow(first - 1, 2) + 0.1 * pow(first, 4) + first;
                                  for (Index i = 0; i + 1 < n; ++i)
                                    sum += 10 * pow(told(x, i + 1) - pow(told(x, i), 2), 2);
                                  return units.values * sum;
                                })
      .region(Vector(Vector::Constant(n, -2 * units.lengths)), Vector(Vector::Constant(n, 3 * units.lengths)))
      .start(Vector(units.lengths * Vector::LinSpaced(n, -1.25, 0.5)));
}

/// A run for its path alone: no tolerance that has a unit.
Outcome walk(const Problem& problem, const Method& method) {
  StopRules stop{.iterations = 150, .evaluations = 3000};
  stop.gradient_tolerance.reset();
  stop.divergence = 1e300;
  return run(problem, method, {.stop = stop});
}

/// The first thing in which the paths in two units differ; empty where they are one path, to the bit.
std::string difference(const Method& method, Units units) {
  const Index n = std::min<Index>(3, method.card().able.most_variables);
  const Outcome plain = walk(valley_in(n, {}), method), told = walk(valley_in(n, units), method);
  if (plain.iterations != told.iterations) return fmt::format("{} iterations, {}", plain.iterations, told.iterations);
  if (plain.counts[Spent::evaluations] != told.counts[Spent::evaluations])
    return fmt::format("{} evaluations, {}", plain.counts[Spent::evaluations], told.counts[Spent::evaluations]);
  const auto values = plain.trace.column("value"), told_values = told.trace.column("value");
  for (std::size_t k = 0; k < values.size(); ++k) {
    if (values[k] * units.values != told_values[k]) return fmt::format("the value of row {}", k);
  }
  if (plain.last_point * units.lengths != told.last_point) return "the last point";
  return "";
}

/// A rising function of positive numbers that rounds nothing and is no straight line: m 2^e becomes m 4^e.
double stretched(double value) {
  int exponent = 0;
  const double mantissa = std::frexp(value, &exponent);
  return std::ldexp(mantissa, 2 * exponent);
}

std::vector<Method> parsed(const std::vector<std::string>& texts) {
  std::vector<Method> methods;
  for (const std::string& text : texts) methods.push_back(standard_methods().parse(text));
  return methods;
}

/// Methods without a number in the values' or the variables' unit, but for the 1 in "relative to 1 + |x|". Those with
/// local searches inside end them by tolerances that have one.
const std::vector<std::string> unit_free = {"nelder-mead",
                                            "hill-climb",
                                            "pattern-search",
                                            "pattern-search:form=compass",
                                            "rosenbrock-rotation",
                                            "mesh-adaptive",
                                            "quadratic-model",
                                            "spsa",
                                            "random-search",
                                            "annealing",
                                            "direct",
                                            "surrogate:most-points=40",
                                            "differential-evolution",
                                            "differential-evolution:mutation=current-to-best-1",
                                            "adaptive-differential-evolution",
                                            "particle-swarm",
                                            "particle-swarm:neighbours=ring",
                                            "genetic",
                                            "evolution-strategy",
                                            "evolution-strategy:form=one-fifth",
                                            "cma-es",
                                            "cma-es:form=separable",
                                            "cma-es:form=limited",
                                            "cma-es:restarts=increasing",
                                            "cross-entropy",
                                            "newton"};

/// Those of them that only ask which of two values is smaller.
const std::vector<std::string> rank_based = {"nelder-mead",
                                             "hill-climb",
                                             "pattern-search",
                                             "pattern-search:form=compass",
                                             "mesh-adaptive:models=false",
                                             "random-search",
                                             "differential-evolution",
                                             "differential-evolution:mutation=current-to-best-1",
                                             "particle-swarm",
                                             "genetic",
                                             "evolution-strategy",
                                             "evolution-strategy:form=one-fifth",
                                             "cma-es",
                                             "cma-es:form=separable",
                                             "cma-es:form=limited",
                                             "cross-entropy"};

} // namespace

TEST_SUITE("invariances") {
  TEST_CASE("the values' unit does not change a path, to the bit") {
    auto methods = parsed(unit_free);
    for (const char* with_line : {"powell", "golden-section", "parabolic", "cubic", "interval-scan"})
      methods.push_back(standard_methods().parse(with_line)); // their first steps along a line are lengths
    for (const Method& each : methods) {
      CAPTURE(each.name());
      CHECK(difference(each, {.values = 0x1p20}).empty());
      CHECK(difference(each, {.values = 0x1p-20}).empty());
    }
  }

  TEST_CASE("the variables' unit does not change a path, to the bit, where the region tells it") {
    auto methods = parsed(unit_free);
    methods.push_back(standard_methods().parse("newton-trust-region")); // its radius is in units of the curvature
    methods.push_back(standard_methods().parse("implicit-filtering"));  // it ends stencils by a slope for their width
    for (const Method& each : methods) {
      CAPTURE(each.name());
      CHECK(difference(each, {.lengths = 0x1p20}).empty());
      CHECK(difference(each, {.lengths = 0x1p-10}).empty());
    }
  }

  TEST_CASE("a rising change of the values does not change the path of what only compares them") {
    const Problem plain = valley_in(3, {});
    const Problem bent = Problem::black_box(3, [&](const Vector& x) { return stretched(plain.value(x)); })
                             .region(plain.region().lower, plain.region().upper)
                             .start(*plain.start());
    for (const Method& each : parsed(rank_based)) {
      CAPTURE(each.name());
      const Outcome a = walk(plain, each), b = walk(bent, each);
      CHECK(a.last_point == b.last_point);
      CHECK(a.point == b.point);
      CHECK(a.counts[Spent::evaluations] == b.counts[Spent::evaluations]);
      CHECK(stretched(a.value) == b.value);
    }
    // What looks at differences does see it: the test is one that can fail.
    CHECK(walk(plain, method("quadratic-model")).last_point != walk(bent, method("quadratic-model")).last_point);
  }
}
