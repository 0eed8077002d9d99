#include "tanzen/expression/expression.hpp"
#include "tanzen/expression/formula.hpp"
#include "tanzen/expression/tape.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

TEST_SUITE("expression graph") {
  TEST_CASE("equal parts are one node, whatever the order of commuting operands") {
    Graph graph(2);
    const Expr x(graph, graph.variable(0)), y(graph, graph.variable(1));
    const auto id = [&](const Expr& e) { return e.node_in(graph); };
    CHECK(id(x * y) == id(y * x));
    CHECK(id(x + y) == id(y + x));
    CHECK(id(x - y) != id(y - x));
    CHECK(id(sin(x * y) + 1) == id(1 + sin(y * x)));
    const std::size_t before = graph.size();
    (void)id(sin(x * y) + 1);
    CHECK(graph.size() == before);
  }

  TEST_CASE("what is constant is computed at once and what changes nothing is dropped") {
    Graph graph(1);
    const Expr x(graph, graph.variable(0));
    const auto id = [&](const Expr& e) { return e.node_in(graph); };
    CHECK((Expr(2) * 3 + sin(Expr(1))).constant() == 6 + std::sin(1.0));
    CHECK(id(x + 0) == id(x));
    CHECK(id(0 + x) == id(x));
    CHECK(id(1 * x) == id(x));
    CHECK(id(x / 1) == id(x));
    CHECK(id(pow(x, 1)) == id(x));
    CHECK(pow(x, 0).constant() == 1);
    CHECK(id(-(-x)) == id(x));
    CHECK(id(choose(Expr(1) < Expr(2), x, 7)) == id(x));
    CHECK_FALSE((x * 0).is_constant()); // x may be infinite or no number
  }

  TEST_CASE("a function that reads a variable it does not have is told so") {
    CHECK_THROWS_WITH_AS((void)Expression::traced(2, [](const auto& x) { return x[0] + x[2]; }),
                         doctest::Contains("reads x[2], but it has 2 variables"), ProblemError);
  }

  TEST_CASE("the tape keeps only what its outputs need") {
    Graph graph(1);
    const Expr x(graph, graph.variable(0));
    const NodeId used = sin(x).node_in(graph);
    (void)exp(cos(x)).node_in(graph);
    CHECK(Tape(graph, std::span(&used, 1)).steps() == 1);
  }

  TEST_CASE("a chained function of 10,000 variables has a tape of linear size") {
    const Index n = 10'000;
    const Tape tape(Expression::traced(n, [](const auto& x) {
      Expr total;
      for (Index i = 0; i + 1 < x.size(); ++i) total += 100 * pow(x[i + 1] - pow(x[i], 2), 2) + pow(1 - x[i], 2);
      return total;
    }));
    CHECK(tape.steps() < 9 * static_cast<std::size_t>(n));
    auto work = tape.workspace();
    CHECK(tape.evaluate(Vector::Ones(n), work) == 0);
  }

  TEST_CASE("several outputs share one tape, and a weighted gradient is the sum of theirs") {
    Graph graph(2);
    const Expr x(graph, graph.variable(0)), y(graph, graph.variable(1));
    const NodeId outputs[] = {(x * y).node_in(graph), (x + exp(y)).node_in(graph), x.node_in(graph),
                              Expr(4).node_in(graph)};
    const Tape tape(graph, outputs);
    auto work = tape.workspace();
    tape.evaluate(Vector{{2, 3}}, work);
    CHECK(tape.output(0, work) == 6);
    CHECK(tape.output(1, work) == 2 + std::exp(3.0));
    CHECK(tape.output(2, work) == 2);
    CHECK(tape.output(3, work) == 4);
    Vector gradient;
    const double weights[] = {1, 10, 100, 1000};
    tape.weighted_gradient(weights, work, gradient);
    CHECK(gradient[0] == 3 + 10 + 100);
    CHECK(gradient[1] == doctest::Approx(2 + 10 * std::exp(3.0)).epsilon(1e-15));
  }
}
