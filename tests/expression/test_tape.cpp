#include "tanzen/expression/formula.hpp"
#include "tanzen/expression/tape.hpp"

#include "support/differences.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <cmath>
#include <limits>
#include <string>

using namespace tanzen;

namespace {

const std::vector<double> one{1};

struct Known {
  const char* formula;
  double (*function)(double, double);
  double x, y;
};

/// Every operation once, with the same function in C++, at a point where it is smooth.
constexpr Known every_operation[] = {
    {"-x*y", [](double x, double y) { return -x * y; }, 0.7, 1.3},
    {"abs(x)*y", [](double x, double y) { return std::abs(x) * y; }, -0.7, 1.3},
    {"sqrt(x + y)", [](double x, double y) { return std::sqrt(x + y); }, 0.7, 1.3},
    {"cbrt(x*y)", [](double x, double y) { return std::cbrt(x * y); }, 0.7, 1.3},
    {"exp(x - y)", [](double x, double y) { return std::exp(x - y); }, 0.7, 1.3},
    {"log(x/y)", [](double x, double y) { return std::log(x / y); }, 0.7, 1.3},
    {"log2(x*y)", [](double x, double y) { return std::log2(x * y); }, 0.7, 1.3},
    {"log10(x + y^2)", [](double x, double y) { return std::log10(x + y * y); }, 0.7, 1.3},
    {"sin(x*y)", [](double x, double y) { return std::sin(x * y); }, 0.7, 1.3},
    {"cos(x*y)", [](double x, double y) { return std::cos(x * y); }, 0.7, 1.3},
    {"tan(x*y)", [](double x, double y) { return std::tan(x * y); }, 0.7, 1.3},
    {"asin(x*y)", [](double x, double y) { return std::asin(x * y); }, 0.4, 0.9},
    {"acos(x*y)", [](double x, double y) { return std::acos(x * y); }, 0.4, 0.9},
    {"atan(x*y)", [](double x, double y) { return std::atan(x * y); }, 0.7, 1.3},
    {"sinh(x*y)", [](double x, double y) { return std::sinh(x * y); }, 0.7, 1.3},
    {"cosh(x*y)", [](double x, double y) { return std::cosh(x * y); }, 0.7, 1.3},
    {"tanh(x*y)", [](double x, double y) { return std::tanh(x * y); }, 0.7, 1.3},
    {"x/y", [](double x, double y) { return x / y; }, 0.7, 1.3},
    {"x^y", [](double x, double y) { return std::pow(x, y); }, 0.7, 1.3},
    {"x^3*y^-2", [](double x, double y) { return x * x * x / (y * y); }, -0.7, 1.3},
    {"1/x + y^-1", [](double x, double y) { return 1 / x + 1 / y; }, 0.7, 1.3},
    {"x^0.5*y^2", [](double x, double y) { return std::sqrt(x) * y * y; }, 0.7, 1.3},
    {"atan2(x, y)", [](double x, double y) { return std::atan2(x, y); }, 0.7, -1.3},
    {"hypot(x, 2*y)", [](double x, double y) { return std::hypot(x, 2 * y); }, 0.7, 1.3},
    {"min(x, y)*x", [](double x, double y) { return std::min(x, y) * x; }, 0.7, 1.3},
    {"max(x, y^2, 1)",
     [](double x, double y) {
       return std::max({x, y * y, 1.0});
     },
     0.7, 1.3},
    {"if(x < y, x*y, x - y)", [](double x, double y) { return x < y ? x * y : x - y; }, 0.7, 1.3},
    {"if(x >= y, x*y, x/y)", [](double x, double y) { return x >= y ? x * y : x / y; }, 0.7, 1.3},
    {"floor(3*x) + ceil(y) + round(y) + sign(x)*y",
     [](double x, double y) { return std::floor(3 * x) + std::ceil(y) + std::round(y) + y + 0 * x; }, 0.7, 1.3},
};

Tape tape_of(const std::string& formula) {
  return Tape(Formula::parse(formula).expression({.variables = {{"x", {}}, {"y", {}}}}));
}

} // namespace

TEST_SUITE("tape") {
  TEST_CASE("every operation has the value, gradient and Hessian of the same function in C++") {
    for (const Known& known : every_operation) {
      CAPTURE(known.formula);
      const Tape tape = tape_of(known.formula);
      auto work = tape.workspace();
      const Vector point{{known.x, known.y}};
      const auto function = [&](const Vector& p) { return known.function(p[0], p[1]); };
      Vector gradient;
      CHECK(tape.gradient(point, work, gradient) == doctest::Approx(function(point)).epsilon(1e-15));
      for (Index i = 0; i < 2; ++i) {
        const auto slope = testing::eighth_order_difference(function, point, i);
        CHECK(std::abs(gradient[i] - slope.value) <= 10 * slope.error + 1e-11 * (1 + std::abs(slope.value)));
      }
      Matrix hessian;
      tape.hessian(point, one, work, hessian);
      for (Index i = 0; i < 2; ++i) {
        const auto partial = [&](const Vector& p) {
          Vector g;
          tape.gradient(p, work, g);
          return g[i];
        };
        for (Index j = 0; j < 2; ++j) {
          const auto second = testing::eighth_order_difference(partial, point, j);
          CHECK(std::abs(hessian(i, j) - second.value) <= 10 * second.error + 1e-10 * (1 + std::abs(second.value)));
        }
      }
    }
  }

  TEST_CASE("what is not chosen does not spoil the derivative") {
    const Tape tape = tape_of("if(x > 0, sqrt(x), 0) + y");
    auto work = tape.workspace();
    Vector gradient;
    CHECK(tape.gradient(Vector{{-1, 2}}, work, gradient) == 2);
    CHECK(gradient[0] == 0);
    CHECK(gradient[1] == 1);
  }

  TEST_CASE("no number in, no number out") {
    const Tape tape = tape_of("min(x, y) + max(x, y) + sign(x)");
    auto work = tape.workspace();
    const double nan = std::numeric_limits<double>::quiet_NaN();
    CHECK(std::isnan(tape.evaluate(Vector{{nan, 1}}, work)));
    CHECK(std::isnan(tape.evaluate(Vector{{1, nan}}, work)));
  }

  TEST_CASE("a folded constant has the bits of the tape's own value") {
    for (const char* text : {"1.3^2.7", "2^10", "(-1.7)^3", "sin(2)/3 - exp(0.1)", "0.3^2 + 0.1^-1", "hypot(3, 4.1)"}) {
      CAPTURE(text);
      const Tape folded = tape_of(std::string(text) + " + 0*x");
      std::string by_variables = text;
      auto work = folded.workspace();
      const double value = folded.evaluate(Vector{{1, 1}}, work);
      CHECK(Formula::parse(text).expression({}).graph().node(Formula::parse(text).expression({}).root()).constant() ==
            value);
    }
  }

  TEST_CASE("the Hessian times a direction is the Hessian times the direction") {
    CHECK(rc::check("any direction", [] {
      const auto number = [] { return static_cast<double>(*rc::gen::inRange(-1000, 1000)) / 250; };
      const Tape tape = tape_of("(1 - x)^2 + 100*(y - x^2)^2 + sin(x*y)");
      auto work = tape.workspace();
      const Vector point{{number(), number()}}, direction{{number(), number()}};
      Matrix hessian;
      tape.hessian(point, one, work, hessian);
      Vector product;
      tape.hessian_times(point, one, direction, work, product);
      RC_ASSERT((hessian * direction - product).norm() <= 1e-12 * (1 + hessian.norm() * direction.norm()));
    }));
  }
}
