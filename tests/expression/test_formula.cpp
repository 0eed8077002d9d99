#include "tanzen/base/errors.hpp"
#include "tanzen/expression/formula.hpp"
#include "tanzen/expression/tape.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <chrono>
#include <cmath>

using namespace tanzen;

namespace {

double value_of(const std::string& text, const std::vector<double>& point = {}, FormulaScope scope = {}) {
  if (scope.variables.empty() && !point.empty()) scope.variables = Formula::parse(text).variables();
  const Tape tape(Formula::parse(text).expression(scope));
  auto work = tape.workspace();
  return tape.evaluate(Coordinates(point).vector(), work);
}

std::vector<std::string> names_in(const std::string& text) {
  std::vector<std::string> names;
  for (const auto& variable : Formula::parse(text).variables()) names.push_back(variable.name);
  return names;
}

struct BadFormula {
  std::string text;
  const char* says;
  std::size_t offset;
};

} // namespace

TEST_SUITE("formula") {
  TEST_CASE("operators bind as in mathematics") {
    CHECK(value_of("2 + 3*4") == 14);
    CHECK(value_of("(2 + 3)*4") == 20);
    CHECK(value_of("2 - 3 - 4") == -5);
    CHECK(value_of("12/3/2") == 2);
    CHECK(value_of("-2^2") == -4);
    CHECK(value_of("2^3^2") == 512);
    CHECK(value_of("2^-1") == 0.5);
    CHECK(value_of("--3") == 3);
    CHECK(value_of("+3 - -2") == 5);
    CHECK(value_of("6/2*3") == 9);
    CHECK(value_of("2.5e-3*1E3") == 2.5);
    CHECK(value_of(".5 + 1.") == 1.5);
    CHECK(value_of("cos(pi) + log(e)") == doctest::Approx(0).epsilon(1e-15));
  }

  TEST_CASE("variables stand in natural order or in the order given") {
    CHECK(names_in("x10 + x2 + a") == std::vector<std::string>{"a", "x2", "x10"});
    CHECK(value_of("x10 - x2", {2, 10}) == 8);
    CHECK(value_of("y - x", {1, 5}, {.variables = {{"y", {}}, {"x", {}}}}) == -4);
    CHECK(names_in("x[3] + y") == std::vector<std::string>{"x1", "x2", "x3", "y"});
  }

  TEST_CASE("a vector counts from one, and x1 is short for x[1]") {
    const FormulaScope scope{.variables = {{"x", 4}}};
    CHECK(value_of("x[1] + 10*x2 + 100*x[4]", {1, 2, 3, 4}, scope) == 421);
    CHECK(value_of("sum(i = 1..n, i*x[i])", {1, 2, 3, 4}, scope) == 30);
    CHECK(value_of("product(i = 1..n, x[i])", {1, 2, 3, 4}, scope) == 24);
    CHECK(value_of("sum(i = 1..n-1, (x[i+1] - x[i])^2)", {1, 2, 4, 7}, scope) == 14);
    CHECK(value_of("sum(i = 1..n, sum(j = 1..i, x[j]))", {1, 1, 1, 1}, scope) == 10);
    CHECK(value_of("sum(i = 3..2, x[i])", {1, 2, 3, 4}, scope) == 0);
    CHECK(value_of("sum(i = 1..n, if(i == 1, x[i], x[i] - x[i-1]))", {3, 5, 9, 11}, scope) == 11);
  }

  TEST_CASE("parameters and terms stand for their values") {
    FormulaScope scope{.variables = {{"x", {}}}, .parameters = {{"a", 3}}};
    scope.terms.emplace("part", Formula::parse("a*x"));
    scope.terms.emplace("whole", Formula::parse("part + part^2"));
    CHECK(value_of("whole + 1", {2}, scope) == 43);
    scope.terms.emplace("loop", Formula::parse("loop + 1"));
    CHECK_THROWS_WITH_AS(value_of("loop*x", {1}, scope), doctest::Contains("'loop' is defined by itself"), TextError);
  }

  TEST_CASE("every wrong formula gets its own message with its place") {
    const BadFormula bad[] = {
        {"", "the formula is empty", 0},
        {"   ", "the formula is empty", 3},
        {"2x", "write 2*x", 1},
        {"2(x + 1)", "write 2*(...)", 1},
        {"x(3)", "'x' is no function", 0},
        {"x y", "an operator is missing before 'y'", 2},
        {"(x + 1", "missing ')' for the '(' at character 1", 6},
        {"x + 1)", "')' closes nothing", 5},
        {"x + ", "expected a number, a name or '('", 4},
        {"x + * 2", "found '*'", 4},
        {"sine(x)", "there is no function 'sine'; did you mean 'sin'?", 0},
        {"atan2(x)", "atan2 takes 2 arguments, not 1", 0},
        {"sin(x, y)", "sin takes 1 argument, not 2", 0},
        {"sin()", "sin takes 1 argument, not 0", 0},
        {"sin + 1", "'sin' needs its arguments", 4},
        {"x ** 2", "a power is written with '^'", 2},
        {"x = 3", "a comparison can stand only", 2},
        {"x < 3", "a comparison can stand only", 2},
        {"if(x, 1, 2)", "expected a comparison", 4},
        {"if(x = 1, 1, 2)", "write '=='", 5},
        {"x, y", "expected an operator or the end", 1},
        {"(x, y)", "a comma can stand only between", 2},
        {"x \xC3\x97 y", "write '*'", 2},
        {"x\xC2\xB2", "write '^2'", 1},
        {"x + \xE2\x88\x92", "write '-'", 4},
        {"x $ y", "'$' cannot stand in a formula", 2},
        {std::string("x + \x01", 5), "byte 0x01 cannot stand", 4},
        {"x + \xFF", "byte 0xff cannot stand", 4},
        {"1e999*x", "outside the range of numbers", 0},
        {"sum(i = 1, x)", "expected '..'", 9},
        {"sum(1..3, x)", "expected the name of an index", 4},
        {"sum(i = 1..3)", "expected ','", 12},
        {"x[1", "missing ']'", 3},
    };
    for (const BadFormula& formula : bad) {
      CAPTURE(formula.text);
      try {
        (void)Formula::parse(formula.text);
        FAIL("was accepted");
      } catch (const TextError& error) {
        CHECK(std::string(error.what()).find(formula.says) != std::string::npos);
        CHECK(error.offset() <= formula.text.size());
        INFO(error.what());
        if (formula.text != "sin + 1") CHECK(error.offset() == formula.offset);
      }
    }
  }

  TEST_CASE("what only the names can tell is found when the formula is built") {
    const FormulaScope scope{.variables = {{"x", 3}, {"width", {}}}};
    CHECK_THROWS_WITH_AS(value_of("x[0]", {}, scope), doctest::Contains("x[0] is outside x[1] to x[3]"), TextError);
    CHECK_THROWS_WITH_AS(value_of("x[n+1]", {}, scope), doctest::Contains("x[5] is outside"), TextError);
    CHECK_THROWS_WITH_AS(value_of("x[1.5]", {}, scope), doctest::Contains("must be a whole number"), TextError);
    CHECK_THROWS_WITH_AS(value_of("x[width]", {}, scope), doctest::Contains("known whole number"), TextError);
    CHECK_THROWS_WITH_AS(value_of("x + 1", {}, scope), doctest::Contains("'x' is a vector of 3"), TextError);
    CHECK_THROWS_WITH_AS(value_of("widht", {}, scope), doctest::Contains("did you mean 'width'?"), TextError);
    CHECK_THROWS_WITH_AS(value_of("sum(i = 1..1e9, x1)", {}, scope), doctest::Contains("grows beyond"), TextError);
    // What cannot come to its end is not begun: the fourth part would have no element.
    CHECK_THROWS_WITH_AS(value_of("sum(i = 1..1e9, x[i])", {}, scope), doctest::Contains("grows beyond"), TextError);
    const FormulaScope small{.variables = {{"x", 3}}, .most_operations = 9};
    CHECK(value_of("sum(i = 1..n, x[i])", {1, 2, 3}, small) == 6); // a sum, its ends, three elements with their indices
    CHECK_THROWS_WITH_AS(value_of("x1 + sum(i = 1..n, x[i])", {1, 2, 3}, small),
                         doctest::Contains("grows beyond 9 operations"), TextError);
    CHECK_THROWS_WITH_AS((void)Formula::parse("3 + pi").variables(), doctest::Contains("has no variable"), TextError);
    CHECK_THROWS_WITH_AS((void)Formula::parse("sum(i = 1..n, x[i])").variables(),
                         doctest::Contains("declare it as x[10]"), TextError);
  }

  TEST_CASE("names that cannot be are refused with their reason") {
    CHECK_THROWS_WITH_AS((void)VariableName::parse("2x"), doctest::Contains("is no name"), InputError);
    CHECK_THROWS_WITH_AS((void)VariableName::parse("sin"), doctest::Contains("meaning of its own"), InputError);
    CHECK_THROWS_WITH_AS((void)VariableName::parse("x[0]"), doctest::Contains("is no variable"), InputError);
    CHECK(VariableName::parse(" x[10] ").count == 10);
  }

  TEST_CASE("huge and deep formulas end in bounded time, with a value or a message") {
    std::string sum = "x";
    for (int k = 0; k < 300'000; ++k) sum += " + x";
    CHECK(value_of(sum, {1}) == 300'001);
    const std::string opening(100'000, '('), closing(100'000, ')'), minuses(100'000, '-');
    CHECK_THROWS_WITH_AS((void)Formula::parse(fmt::format("{}x{}", opening, closing)),
                         doctest::Contains("nested more than"), TextError);
    CHECK_THROWS_WITH_AS((void)Formula::parse(fmt::format("{}x", minuses)), doctest::Contains("nested more than"),
                         TextError);
    CHECK_THROWS_WITH_AS((void)Formula::parse(std::string(5'000'000, 'x')), doctest::Contains("the most is"),
                         InputError);
    const std::string name(10'000, 'y');
    CHECK(value_of(fmt::format("{}^2", name), {3}) == 9);
  }

  TEST_CASE("any text is parsed or refused with a place inside it") {
    CHECK(rc::check("random text of formula characters", [] {
      const std::string letters = "x1(),+-*/^. []=<sinumfe\xC3\xA9";
      std::string text;
      for (int k = *rc::gen::inRange(0, 40); k > 0; --k)
        text += letters[static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(letters.size())))];
      try {
        const Formula formula = Formula::parse(text);
        (void)formula.expression({.variables = formula.variables()});
      } catch (const TextError& error) {
        RC_ASSERT(error.offset() <= text.size());
      }
    }));
  }

  TEST_CASE("a name that is given wins over the constant of that name") {
    const FormulaScope scope{.variables = {VariableName::parse("e"), VariableName::parse("pi")}};
    const Expression sum = Formula::parse("e^2 + pi").expression(scope);
    const Tape tape(sum);
    auto work = tape.workspace();
    CHECK(tape.evaluate(Vector{{3, 0.5}}, work) == 9.5);
    // Without it, it is the constant.
    const Expression constant = Formula::parse("e + 0*x").expression({.variables = {VariableName::parse("x")}});
    const Tape plain(constant);
    auto other = plain.workspace();
    CHECK(plain.evaluate(Vector::Ones(1), other) == doctest::Approx(2.718281828459045));
  }
}
