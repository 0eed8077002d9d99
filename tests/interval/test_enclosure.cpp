// Enclosures against arithmetic of 60 digits.
#include "tanzen/interval/interval_tape.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/problem.hpp"

#include "support/sanitized.hpp"

#include <boost/multiprecision/mpfr.hpp>
#include <doctest/doctest.h>

#include <cmath>
#include <functional>
#include <string>
#include <vector>

using namespace tanzen;

namespace {

using Long = boost::multiprecision::number<boost::multiprecision::mpfr_float_backend<60>>;

/// What a function of one number is, with its first two derivatives; not called outside its domain.
struct Known {
  const char* formula;
  std::function<Long(const Long&)> value, slope, bend;
  double least = -INFINITY, most = INFINITY; ///< of its domain, whose ends belong to it where its slope is finite there
};

const Long one = 1;

std::vector<Known> functions_of_one() {
  using namespace boost::multiprecision;
  return {
      {"-x", [](const Long& x) { return Long(-x); }, [](const Long&) { return Long(-1); },
       [](const Long&) { return Long(0); }},
      {"x^2", [](const Long& x) { return Long(x * x); }, [](const Long& x) { return Long(2 * x); },
       [](const Long&) { return Long(2); }},
      {"x^3", [](const Long& x) { return Long(x * x * x); }, [](const Long& x) { return Long(3 * x * x); },
       [](const Long& x) { return Long(6 * x); }},
      {"x^6", [](const Long& x) { return Long(pow(x, 6)); }, [](const Long& x) { return Long(6 * pow(x, 5)); },
       [](const Long& x) { return Long(30 * pow(x, 4)); }},
      {"x^-1", [](const Long& x) { return Long(1 / x); }, [](const Long& x) { return Long(-1 / (x * x)); },
       [](const Long& x) { return Long(2 / (x * x * x)); }},
      {"x^-2", [](const Long& x) { return Long(1 / (x * x)); }, [](const Long& x) { return Long(-2 / pow(x, 3)); },
       [](const Long& x) { return Long(6 / pow(x, 4)); }},
      {"sqrt(x)", [](const Long& x) { return Long(sqrt(x)); }, [](const Long& x) { return Long(1 / (2 * sqrt(x))); },
       [](const Long& x) { return Long(-1 / (4 * x * sqrt(x))); }, 0},
      {"cbrt(x)", [](const Long& x) { return Long(cbrt(x)); },
       [](const Long& x) { return Long(1 / (3 * pow(cbrt(x), 2))); },
       [](const Long& x) { return Long(-2 / (9 * pow(cbrt(x), 5))); }},
      {"x^1.5", [](const Long& x) { return Long(x * sqrt(x)); },
       [](const Long& x) { return Long(Long(3) / 2 * sqrt(x)); },
       [](const Long& x) { return Long(Long(3) / 4 / sqrt(x)); }, 0},
      {"exp(x)", [](const Long& x) { return Long(exp(x)); }, [](const Long& x) { return Long(exp(x)); },
       [](const Long& x) { return Long(exp(x)); }},
      {"log(x)", [](const Long& x) { return Long(log(x)); }, [](const Long& x) { return Long(1 / x); },
       [](const Long& x) { return Long(-1 / (x * x)); }, 0},
      {"log2(x)", [](const Long& x) { return Long(log(x) / log(Long(2))); },
       [](const Long& x) { return Long(1 / (x * log(Long(2)))); },
       [](const Long& x) { return Long(-1 / (x * x * log(Long(2)))); }, 0},
      {"log10(x)", [](const Long& x) { return Long(log(x) / log(Long(10))); },
       [](const Long& x) { return Long(1 / (x * log(Long(10)))); },
       [](const Long& x) { return Long(-1 / (x * x * log(Long(10)))); }, 0},
      {"sin(x)", [](const Long& x) { return Long(sin(x)); }, [](const Long& x) { return Long(cos(x)); },
       [](const Long& x) { return Long(-sin(x)); }},
      {"cos(x)", [](const Long& x) { return Long(cos(x)); }, [](const Long& x) { return Long(-sin(x)); },
       [](const Long& x) { return Long(-cos(x)); }},
      {"tan(x)", [](const Long& x) { return Long(tan(x)); }, [](const Long& x) { return Long(1 + pow(tan(x), 2)); },
       [](const Long& x) { return Long(2 * tan(x) * (1 + pow(tan(x), 2))); }},
      {"asin(x)", [](const Long& x) { return Long(asin(x)); }, [](const Long& x) { return Long(1 / sqrt(1 - x * x)); },
       [](const Long& x) { return Long(x / pow(1 - x * x, Long(3) / 2)); }, -1, 1},
      {"acos(x)", [](const Long& x) { return Long(acos(x)); }, [](const Long& x) { return Long(-1 / sqrt(1 - x * x)); },
       [](const Long& x) { return Long(-x / pow(1 - x * x, Long(3) / 2)); }, -1, 1},
      {"atan(x)", [](const Long& x) { return Long(atan(x)); }, [](const Long& x) { return Long(1 / (1 + x * x)); },
       [](const Long& x) { return Long(-2 * x / pow(1 + x * x, 2)); }},
      {"sinh(x)", [](const Long& x) { return Long(sinh(x)); }, [](const Long& x) { return Long(cosh(x)); },
       [](const Long& x) { return Long(sinh(x)); }},
      {"cosh(x)", [](const Long& x) { return Long(cosh(x)); }, [](const Long& x) { return Long(sinh(x)); },
       [](const Long& x) { return Long(cosh(x)); }},
      {"tanh(x)", [](const Long& x) { return Long(tanh(x)); }, [](const Long& x) { return Long(1 - pow(tanh(x), 2)); },
       [](const Long& x) { return Long(-2 * tanh(x) * (1 - pow(tanh(x), 2))); }},
  };
}

/// Numbers of all sizes, the special ones among them.
double any_number(RandomStream& random) {
  switch (random.below(8)) {
  case 0: return random.uniform(-10, 10);
  case 1: return random.uniform(-1, 1);
  case 2: return std::round(random.uniform(-20, 20));
  case 3: return random.normal() * std::pow(10, random.uniform(-300, 300));
  case 4: return random.normal() * std::pow(10, random.uniform(-18, 3));
  case 5: return random.uniform(-3, 3) * std::numeric_limits<double>::denorm_min() * std::pow(2, random.uniform(0, 50));
  case 6: return random.uniform(-1000, 1000);
  default: break;
  }
  const double special[] = {0, -0.0, 1, -1, 0.5, 1e308, -1e308, 2.2250738585072014e-308, M_PI, -M_PI / 2, 1e16};
  return special[random.below(11)];
}

Enclosure any_interval(RandomStream& random) {
  const double a = any_number(random);
  const double b = random.below(3) == 0   ? any_number(random)
                   : random.below(2) == 0 ? a
                                          : a + std::abs(a) * std::pow(10, random.uniform(-16, 0));
  return std::isfinite(b) ? Enclosure(std::min(a, b), std::max(a, b)) : Enclosure(a);
}

double any_within(const Enclosure& box, RandomStream& random) {
  const double part = random.uniform();
  const Index end = random.below(6);
  return end == 0   ? box.lower
         : end == 1 ? box.upper
                    : std::clamp(box.lower * (1 - part) + box.upper * part, box.lower, box.upper);
}

bool holds(const Enclosure& enclosure, const Long& value) {
  return !enclosure.is_empty() && Long(enclosure.lower) <= value && value <= Long(enclosure.upper);
}

} // namespace

TEST_SUITE("intervals") {
  TEST_CASE("no operation of one operand leaves a value, a slope or a curvature out, for any box") {
    const int boxes = testing::is_sanitized ? 3000 : 100'000;
    for (const Known& known : functions_of_one()) {
      const IntervalTape tape(*Problem::from_formula(known.formula, {"x"}).expression());
      auto work = tape.workspace();
      RandomStream random(1, {"boxes", known.formula});
      int outside = 0, looked = 0;
      for (int k = 0; k < boxes; ++k) {
        const Enclosure box = any_interval(random);
        const BoxTraits traits = tape.evaluate({&box, 1}, IntervalTape::Order::hessian, work);
        const double x = any_within(box, random);
        if (x < known.least || x > known.most) continue;
        const bool is_edge = x == known.least || x == known.most || x == 0;
        const bool has_value = !is_edge || std::isfinite(std::pow(x, 2));
        if (!has_value) continue;
        if (is_edge && (std::string(known.formula).starts_with("log") || std::string(known.formula).starts_with("x^-")))
          continue;
        ++looked;
        if (traits.nowhere || !holds(tape.value(work), known.value(x))) ++outside;
        if (is_edge) continue; // the slope may be infinite there
        const Long slope = known.slope(x);
        if (!holds(tape.slope(0, work), slope)) ++outside;
        if (!holds(tape.bend(0, 0, work), known.bend(x))) ++outside;
        (void)tape.evaluate({&box, 1}, IntervalTape::Order::gradient, work); // backward, another way
        if (!holds(tape.slope(0, work), slope)) ++outside;
      }
      CAPTURE(std::string(known.formula));
      CHECK(outside == 0);
      CHECK(looked > boxes / 5);
    }
  }

  TEST_CASE("no operation of two operands does, corners and signs of all kinds among them") {
    using namespace boost::multiprecision;
    using Function = std::function<Long(const Long&, const Long&)>;
    struct Pair {
      const char* formula;
      Function value, by_x, by_y, by_xx, by_xy, by_yy;
    };
    const Function none = [](const Long&, const Long&) { return Long(0); };
    const Function once = [](const Long&, const Long&) { return one; };
    const auto squares = [](const Long& x, const Long& y) { return Long(x * x + y * y); };
    const Pair pairs[] = {
        {"x + y", [](const Long& x, const Long& y) { return Long(x + y); }, once, once, none, none, none},
        {"x - y", [](const Long& x, const Long& y) { return Long(x - y); }, once,
         [](const Long&, const Long&) { return Long(-1); }, none, none, none},
        {"x*y", [](const Long& x, const Long& y) { return Long(x * y); }, [](const Long&, const Long& y) { return y; },
         [](const Long& x, const Long&) { return x; }, none, once, none},
        {"x/y", [](const Long& x, const Long& y) { return Long(x / y); },
         [](const Long&, const Long& y) { return Long(1 / y); },
         [](const Long& x, const Long& y) { return Long(-x / (y * y)); }, none,
         [](const Long&, const Long& y) { return Long(-1 / (y * y)); },
         [](const Long& x, const Long& y) { return Long(2 * x / (y * y * y)); }},
        {"x^y", [](const Long& x, const Long& y) { return Long(pow(x, y)); },
         [](const Long& x, const Long& y) { return Long(y * pow(x, y - 1)); },
         [](const Long& x, const Long& y) { return Long(pow(x, y) * log(x)); },
         [](const Long& x, const Long& y) { return Long(y * (y - 1) * pow(x, y - 2)); },
         [](const Long& x, const Long& y) { return Long(pow(x, y - 1) * (1 + y * log(x))); },
         [](const Long& x, const Long& y) { return Long(pow(x, y) * log(x) * log(x)); }},
        {"hypot(x, y)", [&](const Long& x, const Long& y) { return Long(sqrt(squares(x, y))); },
         [&](const Long& x, const Long& y) { return Long(x / sqrt(squares(x, y))); },
         [&](const Long& x, const Long& y) { return Long(y / sqrt(squares(x, y))); },
         [&](const Long& x, const Long& y) { return Long(y * y / pow(squares(x, y), Long(3) / 2)); },
         [&](const Long& x, const Long& y) { return Long(-x * y / pow(squares(x, y), Long(3) / 2)); },
         [&](const Long& x, const Long& y) { return Long(x * x / pow(squares(x, y), Long(3) / 2)); }},
        {"atan2(y, x)", [](const Long& x, const Long& y) { return Long(atan2(y, x)); },
         [&](const Long& x, const Long& y) { return Long(-y / squares(x, y)); },
         [&](const Long& x, const Long& y) { return Long(x / squares(x, y)); },
         [&](const Long& x, const Long& y) { return Long(2 * x * y / pow(squares(x, y), 2)); },
         [&](const Long& x, const Long& y) { return Long((y * y - x * x) / pow(squares(x, y), 2)); },
         [&](const Long& x, const Long& y) { return Long(-2 * x * y / pow(squares(x, y), 2)); }},
        {"min(x, y)", [](const Long& x, const Long& y) { return Long(x < y ? x : y); },
         [](const Long& x, const Long& y) { return Long(x < y ? 1 : 0); },
         [](const Long& x, const Long& y) { return Long(x < y ? 0 : 1); }, none, none, none},
        {"max(x, y)", [](const Long& x, const Long& y) { return Long(x > y ? x : y); },
         [](const Long& x, const Long& y) { return Long(x > y ? 1 : 0); },
         [](const Long& x, const Long& y) { return Long(x > y ? 0 : 1); }, none, none, none},
        {"abs(x) + 0*y", [](const Long& x, const Long&) { return Long(abs(x)); },
         [](const Long& x, const Long&) { return Long(x.sign()); }, none, none, none, none},
    };
    const int boxes = testing::is_sanitized ? 3000 : 100'000;
    for (const Pair& known : pairs) {
      const std::string formula = known.formula;
      const IntervalTape tape(*Problem::from_formula(formula, {"x", "y"}).expression());
      auto work = tape.workspace();
      RandomStream random(2, {"pairs", formula});
      int outside = 0, looked = 0;
      for (int k = 0; k < boxes; ++k) {
        const Enclosure box[] = {any_interval(random), any_interval(random)};
        const double x = any_within(box[0], random), y = any_within(box[1], random);
        // Ten to the 600 and more is beyond long numbers' patience, not beyond intervals'.
        if (formula == "x^y" && (!(x > 0) || std::abs(y * std::log(x)) > 1e4)) continue;
        if (formula == "x/y" && y == 0) continue;
        if (x == 0 && y == 0) continue;
        const BoxTraits traits = tape.evaluate(box, IntervalTape::Order::hessian, work);
        ++looked;
        if (traits.nowhere || !holds(tape.value(work), known.value(x, y))) ++outside;
        if (traits.may_jump || traits.partly) continue; // then slopes say nothing
        const Long slopes[] = {known.by_x(x, y), known.by_y(x, y)};
        const auto misses_slopes = [&] {
          return !holds(tape.slope(0, work), slopes[0]) || !holds(tape.slope(1, work), slopes[1]);
        };
        if (misses_slopes()) ++outside;
        if (!traits.has_kink) { // where curvatures say something
          if (!holds(tape.bend(0, 0, work), known.by_xx(x, y))) ++outside;
          if (!holds(tape.bend(0, 1, work), known.by_xy(x, y))) ++outside;
          if (!holds(tape.bend(1, 1, work), known.by_yy(x, y))) ++outside;
        }
        (void)tape.evaluate(box, IntervalTape::Order::gradient, work); // backward, another way
        if (misses_slopes()) ++outside;
      }
      CAPTURE(formula);
      CHECK(outside == 0);
      CHECK(looked > boxes / 20);
    }
  }

  TEST_CASE("steps, choices and edges of domains are told for what they are") {
    const auto look = [](const std::string& formula, const Enclosure& box) {
      const IntervalTape tape(*Problem::from_formula(formula, {"x"}).expression());
      auto work = tape.workspace();
      const BoxTraits traits = tape.evaluate({&box, 1}, IntervalTape::Order::gradient, work);
      return std::pair(traits, tape.value(work));
    };
    CHECK(look("floor(x)", {0.25, 0.75}).second == Enclosure(0));
    CHECK_FALSE(look("floor(x)", {0.25, 0.75}).first.may_jump);
    CHECK(look("floor(x)", {0.25, 1}).first.may_jump);
    CHECK(look("sign(x)", {0, 1}).first.may_jump);
    CHECK(look("round(x)", {0.5, 1.25}).second == Enclosure(1));
    CHECK(look("abs(x)", {-1, 2}).second == Enclosure(0, 2));
    CHECK(look("abs(x)", {0, 2}).first.has_kink); // on one side of it
    CHECK(look("if(x < 1, x, 5)", {0.25, 0.5}).second == Enclosure(0.25, 0.5));
    CHECK(look("if(x < 1, x, 5)", {1, 2}).second == Enclosure(5));
    const auto undecided = look("if(x < 1, x, 5)", {0.5, 1});
    CHECK(undecided.first.may_jump);
    CHECK(undecided.second == Enclosure(0.5, 5));
    CHECK(look("if(sqrt(x) < 1, 2, 3)", {-2, -1}).second == Enclosure(3)); // no value compares with nothing
    CHECK(look("sqrt(x)", {-2, -1}).first.nowhere);
    CHECK(look("sqrt(x)", {-2, 4}).first.partly);
    CHECK(look("sqrt(x)", {-2, 4}).second.contains(2));
    CHECK(look("log(x)", {0, 1}).first.partly);
    CHECK(look("1/x", {-1, 1}).first.partly);
    CHECK(look("1/x", {-1, 1}).second == intervals::everything);
    CHECK(look("x^0.5", {-3, -2}).first.nowhere);
    CHECK(look("tan(x)", {1, 2}).first.may_jump);
    CHECK(look("min(x, 1)", {0, 3}).second == Enclosure(0, 1));
    CHECK(look("x - x", {0, 3}).second == Enclosure(0));
  }

  TEST_CASE("sums and products are rounded outward by no more than they must be") {
    const double least = std::numeric_limits<double>::denorm_min(), most = std::numeric_limits<double>::max();
    CHECK(Enclosure(0.5) + Enclosure(0.25) == Enclosure(0.75)); // what is a number is exact
    CHECK(Enclosure(3) - Enclosure(3) == Enclosure(0));
    CHECK(Enclosure(1) + Enclosure(1e-30) == Enclosure(1, intervals::above(1)));
    CHECK(Enclosure(1) - Enclosure(1e-30) == Enclosure(intervals::below(1), 1));
    CHECK(Enclosure(0.1) * Enclosure(0.1) == Enclosure(intervals::below(0.1 * 0.1), intervals::above(0.1 * 0.1)));
    CHECK(Enclosure(0) * intervals::everything == Enclosure(0));
    CHECK((Enclosure(most) + Enclosure(most)).upper == infinity);
    CHECK((Enclosure(most) + Enclosure(most)).lower <= most);
    CHECK((Enclosure(least) * Enclosure(least)).contains(least));
    CHECK((Enclosure(least) * Enclosure(least)).lower <= 0);
    CHECK(square(Enclosure(-2, 1)).lower == 0);
    CHECK(square(Enclosure(-2, 1)).upper == 4); // so are squares of few digits
    CHECK(square(Enclosure(1.5, 3)) == Enclosure(2.25, 9));
    CHECK(square(Enclosure(0)) == Enclosure(0));
    CHECK(square(Enclosure(0x1p-600)) == Enclosure(0, least));
    CHECK(Enclosure(0x1p-600) * Enclosure(0x1p-600) == Enclosure(-least, least));
    CHECK((Enclosure(0x1p600) * Enclosure(-0x1p600)).upper >= -most);
    CHECK((Enclosure(-most) * Enclosure(most)).lower == -infinity);
    CHECK((Enclosure(-most) * Enclosure(most)).upper >= -most);
    // Of where infinities meet nothing is said, and it is not taken for an empty interval.
    CHECK_FALSE((intervals::everything - intervals::everything).is_empty());
    const IntervalTape tape(*Problem::from_formula("x*y - z", {"x", "y", "z"}).expression());
    auto work = tape.workspace();
    const Enclosure box[] = {most, {-most, -1}, most};
    (void)tape.evaluate(box, IntervalTape::Order::value, work);
    CHECK(tape.value(work).lower == -infinity);
    CHECK(tape.value(work).contains(-most));
  }

  TEST_CASE("a formula of many parts holds its own plain values, slopes and curvatures, in boxes of all sizes") {
    const Problem problem = Problem::from_formula(
        "sin(x*y)*exp(-x^2/4) + log(2 + x^2)*sqrt(1 + y^2) - atan(x - y)^3/(1 + cosh(y)) + tanh(x)*abs(y)", {"x", "y"});
    const IntervalTape tape(*problem.expression());
    auto work = tape.workspace();
    RandomStream random(4, {"parts"});
    int outside = 0;
    for (int k = 0; k < 3000; ++k) {
      const double size = std::pow(10, random.uniform(-8, 0.5));
      const Vector at{{random.uniform(-3, 3), random.uniform(0.1, 3)}};
      const Enclosure box[] = {{at[0] - size, at[0] + size}, {std::max(0.01, at[1] - size), at[1] + size}};
      (void)tape.evaluate(box, IntervalTape::Order::hessian, work);
      const Vector x{{any_within(box[0], random), any_within(box[1], random)}};
      const double slack = 1e-12; // of the plain values
      const auto is_out = [&](const Enclosure& enclosure, double value) {
        return !(enclosure.lower - slack <= value && value <= enclosure.upper + slack);
      };
      outside += is_out(tape.value(work), problem.value(x));
      const Vector gradient = problem.gradient(x);
      const Matrix hessian = problem.hessian(x);
      for (Index i = 0; i < 2; ++i) {
        outside += is_out(tape.slope(i, work), gradient[i]);
        for (Index j = 0; j < 2; ++j) outside += is_out(tape.bend(i, j, work), hessian(i, j));
      }
      (void)tape.evaluate(box, IntervalTape::Order::gradient, work);
      for (Index i = 0; i < 2; ++i) outside += is_out(tape.slope(i, work), gradient[i]);
    }
    CHECK(outside == 0);
  }
}
