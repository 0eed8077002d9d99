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

  TEST_CASE("slopes of blocks of rows are those of the tape, of every output, by the first variables") {
    const FormulaScope scope{.variables = {{"a", {}}, {"b", {}}, {"x", {}}, {"y", {}}}};
    auto graph = std::make_shared<Graph>(4);
    std::vector<NodeId> roots;
    for (const char* formula :
         {"a*exp(-b*x) + x^a - y^b", "if(x < 0.5, a*a*x, b/y)", "min(a, x)*abs(b) + hypot(a, y)", "x + y"})
      roots.push_back(Formula::parse(formula).build(*graph, scope).node_in(*graph));
    const Tape tape(*graph, roots);
    const BlockTape blocks(*graph, roots, 2);
    const Matrix rows = (Matrix::Random(100, 2).array() + 1.1).matrix();
    const Vector shared{{0.7, -1.3}};
    auto work = tape.workspace();
    auto block_work = blocks.workspace();
    using Weights = Eigen::Array<double, Eigen::Dynamic, BlockTape::width, Eigen::RowMajor>;
    Vector point(4), slopes;
    for (const auto& [first, count] : {std::pair<Index, Index>{0, 64}, {64, 36}}) {
      blocks.sweep_rows(shared, rows, first, count, block_work);
      for (Index k = 0; k < 4; ++k) {
        Weights weights = Weights::Zero(4, BlockTape::width);
        weights.row(k).setConstant(2);
        blocks.sweep_back(weights, block_work);
        for (Index lane = 0; lane < count; ++lane) {
          point << shared, rows.row(first + lane).transpose();
          (void)tape.evaluate(point, work);
          CHECK(blocks.output(k, block_work)[lane] == tape.output(k, work));
          Vector one = Vector::Zero(4);
          one[k] = 2;
          tape.weighted_gradient(std::span(one.data(), 4), work, slopes);
          for (Index i = 0; i < 2; ++i)
            CHECK(blocks.slope(i, block_work)[lane] == doctest::Approx(slopes[i]).epsilon(1e-13));
        }
      }
    }
  }

  TEST_CASE("what does not matter passes no slope on, even an infinite one") {
    auto graph = std::make_shared<Graph>(2);
    const FormulaScope scope{.variables = {{"a", {}}, {"x", {}}}};
    const NodeId root = Formula::parse("if(x > 0, a*x, sqrt(a))").build(*graph, scope).node_in(*graph);
    const BlockTape blocks(*graph, std::array{root}, 1);
    auto work = blocks.workspace();
    const Matrix rows{{1.0}, {2.0}};
    blocks.sweep_rows(Vector{{0.0}}, rows, 0, 2, work);
    blocks.sweep_back(Eigen::Array<double, 1, BlockTape::width>::Ones(), work);
    CHECK(blocks.slope(0, work)[0] == 1);
    CHECK(blocks.slope(0, work)[1] == 2);
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
