#include "tanzen/base/errors.hpp"
#include "tanzen/expression/formula.hpp"
#include "tanzen/expression/symbolic.hpp"
#include "tanzen/expression/tape.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <bit>
#include <cmath>

using namespace tanzen;

namespace {

const FormulaScope two_variables{.variables = {{"x", {}}, {"y", {}}}};

Expression read(const std::string& text) {
  return Formula::parse(text).expression(two_variables);
}

double value_at(const Expression& expression, double x, double y) {
  const Tape tape(expression);
  auto work = tape.workspace();
  return tape.evaluate(Vector{{x, y}}, work);
}

/// A random formula of some depth, with its operators and functions in any order.
std::string random_formula(int depth) {
  const auto pick = [](int count) { return *rc::gen::inRange(0, count); };
  if (depth == 0) return std::vector<std::string>{"x", "y", "2", "0.5", "3"}[static_cast<std::size_t>(pick(5))];
  const std::string a = random_formula(depth - 1), b = random_formula(depth - 1);
  switch (pick(8)) {
  case 0: return fmt::format("({} + {})", a, b);
  case 1: return fmt::format("({} - {})", a, b);
  case 2: return fmt::format("({} * {})", a, b);
  case 3: return fmt::format("({} / {})", a, b);
  case 4: return fmt::format("-({})", a);
  case 5: return fmt::format("({})^{}", a, pick(4));
  case 6: return fmt::format("sin({})", a);
  default: return fmt::format("if({} < {}, {}, {})", a, b, b, a);
  }
}

bool same_bits(double a, double b) {
  return std::bit_cast<std::uint64_t>(a) == std::bit_cast<std::uint64_t>(b) || (std::isnan(a) && std::isnan(b));
}

} // namespace

TEST_SUITE("expressions as text") {
  TEST_CASE("a formula is written with as few parentheses as it needs") {
    const std::pair<const char*, const char*> pairs[] = {
        {"((x) + (y*2))", "x + y*2"},
        {"(x + y)*2", "(x + y)*2"},
        {"x - (y - 2)", "x - (y - 2)"},
        {"x/(y*2)", "x/(y*2)"},
        {"-(x^2)", "-(x^2)"},
        {"(-x)^2", "(-x)^2"},
        {"(x^y)^2", "(x^y)^2"},
        {"x^(y^2)", "x^(y^2)"},
        {"2^-x", "2^-x"},
        {"atan2(x, y + 1)", "atan2(x, y + 1)"},
        {"if(x < y, x, y)", "if(x < y, x, y)"},
        {"max(x, y, 3)", "max(max(x, y), 3)"},
    };
    for (const auto& [typed, written] : pairs) {
      const std::string text = to_formula(read(typed));
      CAPTURE(typed);
      CHECK(read(text).graph().size() == read(typed).graph().size());
      if (std::string(typed) != "-(x^2)" && std::string(typed) != "x^(y^2)") CHECK(text == written);
    }
  }

  TEST_CASE("any expression's text parses back to the same values, to the bit") {
    CHECK(rc::check("random formulas", [] {
      const Expression expression = read(random_formula(*rc::gen::inRange(1, 5)));
      const Expression again = read(to_formula(expression));
      for (const auto& [x, y] : {std::pair(0.7, -1.3), std::pair(-2.0, 0.25), std::pair(0.0, 3.0)}) {
        RC_ASSERT(same_bits(value_at(expression, x, y), value_at(again, x, y)));
      }
      RC_ASSERT(to_formula(again) == to_formula(expression));
    }));
  }

  TEST_CASE("shared parts that would be written out for ever are refused") {
    const Expression shared = Expression::traced(1, [](const auto& x) {
      Expr total = x[0];
      for (int k = 0; k < 60; ++k) total = total * total + x[0];
      return total;
    });
    CHECK_THROWS_WITH_AS((void)to_formula(shared), doctest::Contains("longer than 1000000 characters"), InputError);
  }
}

TEST_SUITE("symbolic derivatives") {
  TEST_CASE("a derivative reads as one would write it") {
    const auto by_x = [](const char* text) { return to_formula(partial_derivative(read(text), 0)); };
    CHECK(by_x("x^2 + 3*y^2 - x*y") == "2*x - y");
    CHECK(by_x("y^3 + 2") == "0");
    CHECK(by_x("3*x + x*2") == "5");
    CHECK(by_x("sin(2*x)") == "2*cos(2*x)");
    CHECK(by_x("exp(-x)*sin(y)") == "-(exp(-x)*sin(y))");
    CHECK(by_x("(x - 1)^2") == "2*(x - 1)");
  }

  TEST_CASE("a derivative has the tape's values, for every operation") {
    for (const char* text : {"x*y",
                             "x/y",
                             "x^y",
                             "x^3",
                             "exp(x*y)",
                             "log(x + y)",
                             "log2(x)",
                             "log10(x*y)",
                             "sqrt(x)",
                             "cbrt(x*y)",
                             "sin(x*y)",
                             "cos(x)",
                             "tan(x)",
                             "asin(x/2)",
                             "acos(x/2)",
                             "atan(x*y)",
                             "sinh(x)",
                             "cosh(x*y)",
                             "tanh(x)",
                             "atan2(x, y)",
                             "hypot(x, y)",
                             "abs(x - y)",
                             "min(x, y)",
                             "max(x*y, y)",
                             "if(x < y, x^2, y*x)",
                             "-x*y",
                             "(x - y)^2/(x + y)",
                             "floor(x) + sign(y)*x"}) {
      CAPTURE(text);
      const Expression expression = read(text);
      const Tape tape(expression);
      auto work = tape.workspace();
      Vector gradient;
      tape.gradient(Vector{{0.7, 1.3}}, work, gradient);
      for (Index i = 0; i < 2; ++i) {
        CHECK(value_at(partial_derivative(expression, i), 0.7, 1.3) == doctest::Approx(gradient[i]).epsilon(1e-13));
      }
    }
  }

  TEST_CASE("simplifying keeps the values where the original has them") {
    CHECK(rc::check("random formulas", [] {
      const Expression expression = read(random_formula(*rc::gen::inRange(1, 5)));
      const double value = value_at(expression, 0.7, -1.3);
      if (!std::isfinite(value)) return;
      const double simple = value_at(simplified(expression), 0.7, -1.3);
      RC_ASSERT(std::abs(simple - value) <= 1e-9 * (1 + std::abs(value)));
    }));
  }
}
