#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/fall.hpp"
#include "tanzen/search/run.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

std::optional<Fall> fall_of(const std::string& formula, const Vector& from, const Vector& direction) {
  return find_fall(Problem::from_formula(formula), from, direction);
}

} // namespace

TEST_SUITE("falls without end") {
  TEST_CASE("a line, a power and a logarithm fall for ever") {
    CHECK(fall_of("-x - y", Vector{{0, 0}}, Vector{{1, 1}}));
    CHECK(fall_of("x^3 + y^2", Vector{{-1, 0}}, Vector{{-2, 0}}));
    CHECK(fall_of("-log(1 + x^2)", Vector{{3}}, Vector{{1}}));
    CHECK(fall_of("-exp(x)", Vector{{0}}, Vector{{1}})); // out of the numbers on the way
    const auto fall = fall_of("-x - y", Vector{{0, 0}}, Vector{{3, 4}});
    REQUIRE(fall);
    CHECK(fall->direction.isApprox(Vector{{0.6, 0.8}}));
    CHECK_FALSE(fall->at_edge);
  }

  TEST_CASE("what only comes near a limit, or turns, does not") {
    for (const char* formula :
         {"-x/(1 + x)", "-atan(x)", "1/(1 + x)", "1e-9*x^2 - x", "-tanh(x) - 1e-3*x + 1e-9*x^2", "x^2"}) {
      CAPTURE(formula);
      CHECK_FALSE(fall_of(formula, Vector{{1}}, Vector{{1}}));
    }
  }

  TEST_CASE("towards the edge of a domain as well") {
    const auto fall = fall_of("log(x)", Vector{{1}}, Vector{{-0.3}});
    REQUIRE(fall);
    CHECK(fall->at_edge);
    CHECK(std::abs(fall->edge[0]) < 1e-12);
    CHECK(fall_of("-1/(x - 2)", Vector{{5}}, Vector{{-1}}).has_value() == false); // it has values on the other side
    CHECK_FALSE(fall_of("sqrt(x)", Vector{{1}}, Vector{{-0.3}}));
    CHECK_FALSE(fall_of("x*log(x)", Vector{{0.2}}, Vector{{-0.05}}));
  }

  TEST_CASE("bounds and constraints end it") {
    const Problem line = Problem::from_formula("-x");
    CHECK(find_fall(line, Vector{{0}}, Vector{{1}}));
    CHECK_FALSE(find_fall(line.bounds(-1, 1e6), Vector::Zero(1), Vector::Ones(1)));
    CHECK_FALSE(find_fall(line.with_constraint("room", "x <= 3"), Vector{{0}}, Vector{{1}}));
    CHECK(find_fall(line.minimized(), Vector{{0}}, Vector{{0}}).has_value() == false); // no way
  }

  TEST_CASE("a run says so of its problem, with the way, and has not converged") {
    for (const char* by :
         {"nelder-mead", "powell", "cma-es", "bfgs", "lbfgs", "newton-trust-region", "gradient-descent"}) {
      CAPTURE(by);
      const Outcome outcome = run(Problem::from_formula("-x - y"), method(by),
                                  {.start = Coordinates{0.5, 0.25}, .stop = {.evaluations = 20'000}});
      CHECK_FALSE(outcome.converged());
      REQUIRE(outcome.checked.fall);
      const Vector& way = outcome.checked.fall->direction;
      CHECK(way.sum() > 0.9); // down is where x + y grows
      CHECK(outcome.checked.how.find("falls without end along") != std::string::npos);
    }
    const Outcome edge =
        run(Problem::from_formula("log(x)"), method("newton-trust-region"), {.start = Coordinates{1.0}});
    CHECK(edge.status == Status::unbounded);
    CHECK(edge.message == "the value falls without end towards the edge of the function's domain at (0)");
    const Outcome rises = run(Problem::from_formula("x").maximized(), method("bfgs"), {.start = Coordinates{1.0}});
    CHECK(rises.status == Status::unbounded);
    CHECK(rises.message == "the value rises without end along (1)");
  }

  TEST_CASE("a deep minimum is none") {
    const Outcome deep =
        run(Problem::from_formula("1e30*((x - 3)^2 - 1)"), method("bfgs"), {.start = Coordinates{2.0}});
    CHECK(deep.converged());
    CHECK_FALSE(deep.checked.fall);
  }
}
