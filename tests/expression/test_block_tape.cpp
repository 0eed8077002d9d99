#include "tanzen/expression/block_tape.hpp"
#include "tanzen/expression/formula.hpp"
#include "tanzen/expression/tape.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <bit>
#include <cmath>

using namespace tanzen;

namespace {

/// Whether both kinds of tape give the same bits at every column.
bool same_bits(const Expression& expression, const Matrix& points) {
  const Tape tape(expression);
  auto work = tape.workspace();
  const BlockTape blocks(expression);
  auto block_work = blocks.workspace();
  Vector values;
  blocks.evaluate(points, block_work, values);
  for (Index k = 0; k < points.cols(); ++k) {
    const double single = tape.evaluate(points.col(k), work);
    if (std::bit_cast<std::uint64_t>(single) != std::bit_cast<std::uint64_t>(values[k]) &&
        !(std::isnan(single) && std::isnan(values[k])))
      return false;
  }
  return values.size() == points.cols();
}

} // namespace

TEST_SUITE("block tape") {
  TEST_CASE("every test function has the same bits in blocks as one at a time") {
    for (const auto& function : testbed::all()) {
      CAPTURE(function.name);
      const Problem problem = testbed::problem(function.name);
      if (!problem.expression()) continue;
      const Box region = problem.region();
      // Two whole blocks and a part of a third, from a little outside the region.
      const Matrix unit = 0.5 * (Matrix::Random(problem.dimension(), 2 * BlockTape::width + 7).array() + 1);
      const Matrix points = (1.2 * (region.upper - region.lower)).asDiagonal() * unit;
      CHECK(same_bits(*problem.expression(), points.colwise() + region.lower));
    }
  }

  TEST_CASE("one point, no point and what is no number are blocks as well") {
    const Expression expression = Formula::parse("min(x, y) + if(x < y, log(x), 1/y) + x^-3 + y^2.5")
                                      .expression({.variables = {{"x", {}}, {"y", {}}}});
    CHECK(same_bits(expression, Matrix{{0.5}, {2}}));
    CHECK(same_bits(expression, Matrix(2, 0)));
    const double nan = std::numeric_limits<double>::quiet_NaN();
    CHECK(same_bits(expression, Matrix{{nan, -1, 0, 1e300}, {1, nan, -0.0, 1e-300}}));
  }

  TEST_CASE("an expression that is a variable or a number needs no place") {
    for (const char* formula : {"y", "3"}) {
      const Expression expression = Formula::parse(formula).expression({.variables = {{"x", {}}, {"y", {}}}});
      CHECK(BlockTape(expression).places() == 0);
      CHECK(same_bits(expression, Matrix{{1, 2}, {3, 4}}));
    }
  }

  TEST_CASE("places are used anew: a chain of a thousand variables needs a few") {
    const Problem chain = testbed::problem("rosenbrock", 1000);
    CHECK(BlockTape(*chain.expression()).places() <= 8);
  }

  TEST_CASE("a function of many points gives what it gives for each, opaque or not") {
    const Problem bowl = Problem::from_formula("x^2 + sin(y)");
    const Problem opaque = Problem::black_box(2, [](const Vector& x) { return x[0] * x[0] + std::sin(x[1]); });
    const Matrix points = Matrix::Random(2, 50);
    Vector values, opaque_values;
    bowl.objective().worker()->values(points, values);
    opaque.objective().worker()->values(points, opaque_values);
    CHECK(values == opaque_values);
  }
}
