// Enclosures against arithmetic of 60 digits.
#include "tanzen/expression/formula.hpp"
#include "tanzen/interval/interval_tape.hpp"
#include "tanzen/numeric/random.hpp"

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
      {"-x", [](const Long& x) { return Long(-x); }, [](const Long&) { return Long(-1); }, [](const Long&) { return Long(0); }},
      {"x^2", [](const Long& x) { return Long(x * x); }, [](const Long& x) { return Long(2 * x); }, [](const Long&) { return Long(2); }},
      {"x^3", [](const Long& x) { return Long(x * x * x); }, [](const Long& x) { return Long(3 * x * x); }, [](const Long& x) { return Long(6 * x); }},
      {"x^6", [](const Long& x) { return Long(pow(x, 6)); }, [](const Long& x) { return Long(6 * pow(x, 5)); }, [](const Long& x) { return Long(30 * pow(x, 4)); }},
      {"x^-1", [](const Long& x) { return Long(1 / x); }, [](const Long& x) { return Long(-1 / (x * x)); }, [](const Long& x) { return Long(2 / (x * x * x)); }},
      {"x^-2", [](const Long& x) { return Long(1 / (x * x)); }, [](const Long& x) { return Long(-2 / pow(x, 3)); }, [](const Long& x) { return Long(6 / pow(x, 4)); }},
      {"sqrt(x)", [](const Long& x) { return Long(sqrt(x)); }, [](const Long& x) { return Long(1 / (2 * sqrt(x))); }, [](const Long& x) { return Long(-1 / (4 * x * sqrt(x))); }, 0},
      {"cbrt(x)", [](const Long& x) { return Long(cbrt(x)); }, [](const Long& x) { return Long(1 / (3 * pow(cbrt(x), 2))); }, [](const Long& x) { return Long(-2 / (9 * pow(cbrt(x), 5))); }},
      {"x^1.5", [](const Long& x) { return Long(x * sqrt(x)); }, [](const Long& x) { return Long(Long(3) / 2 * sqrt(x)); }, [](const Long& x) { return Long(Long(3) / 4 / sqrt(x)); }, 0},
      {"exp(x)", [](const Long& x) { return Long(exp(x)); }, [](const Long& x) { return Long(exp(x)); }, [](const Long& x) { return Long(exp(x)); }},
      {"log(x)", [](const Long& x) { return Long(log(x)); }, [](const Long& x) { return Long(1 / x); }, [](const Long& x) { return Long(-1 / (x * x)); }, 0},
      {"log2(x)", [](const Long& x) { return Long(log(x) / log(Long(2))); }, [](const Long& x) { return Long(1 / (x * log(Long(2)))); }, [](const Long& x) { return Long(-1 / (x * x * log(Long(2)))); }, 0},
      {"log10(x)", [](const Long& x) { return Long(log(x) / log(Long(10))); }, [](const Long& x) { return Long(1 / (x * log(Long(10)))); }, [](const Long& x) { return Long(-1 / (x * x * log(Long(10)))); }, 0},
      {"sin(x)", [](const Long& x) { return Long(sin(x)); }, [](const Long& x) { return Long(cos(x)); }, [](const Long& x) { return Long(-sin(x)); }},
      {"cos(x)", [](const Long& x) { return Long(cos(x)); }, [](const Long& x) { return Long(-sin(x)); }, [](const Long& x) { return Long(-cos(x)); }},
      {"tan(x)", [](const Long& x) { return Long(tan(x)); }, [](const Long& x) { return Long(1 + pow(tan(x), 2)); }, [](const Long& x) { return Long(2 * tan(x) * (1 + pow(tan(x), 2))); }},
      {"asin(x)", [](const Long& x) { return Long(asin(x)); }, [](const Long& x) { return Long(1 / sqrt(1 - x * x)); }, [](const Long& x) { return Long(x / pow(1 - x * x, Long(3) / 2)); }, -1, 1},
      {"acos(x)", [](const Long& x) { return Long(acos(x)); }, [](const Long& x) { return Long(-1 / sqrt(1 - x * x)); }, [](const Long& x) { return Long(-x / pow(1 - x * x, Long(3) / 2)); }, -1, 1},
      {"atan(x)", [](const Long& x) { return Long(atan(x)); }, [](const Long& x) { return Long(1 / (1 + x * x)); }, [](const Long& x) { return Long(-2 * x / pow(1 + x * x, 2)); }},
      {"sinh(x)", [](const Long& x) { return Long(sinh(x)); }, [](const Long& x) { return Long(cosh(x)); }, [](const Long& x) { return Long(sinh(x)); }},
      {"cosh(x)", [](const Long& x) { return Long(cosh(x)); }, [](const Long& x) { return Long(sinh(x)); }, [](const Long& x) { return Long(cosh(x)); }},
      {"tanh(x)", [](const Long& x) { return Long(tanh(x)); }, [](const Long& x) { return Long(1 - pow(tanh(x), 2)); }, [](const Long& x) { return Long(-2 * tanh(x) * (1 - pow(tanh(x), 2))); }},
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

Interval any_interval(RandomStream& random) {
  const double a = any_number(random);
  const double b = random.below(3) == 0 ? any_number(random) : random.below(2) == 0 ? a : a + std::abs(a) * std::pow(10, random.uniform(-16, 0));
  return std::isfinite(b) ? Interval(std::min(a, b), std::max(a, b)) : Interval(a);
}

double any_within(const Interval& box, RandomStream& random) {
  const double part = random.uniform();
  const Index end = random.below(6);
  return end == 0 ? box.lower : end == 1 ? box.upper : std::clamp(box.lower * (1 - part) + box.upper * part, box.lower, box.upper);
}

bool holds(const Interval& enclosure, const Long& value) {
  return !enclosure.is_empty() && Long(enclosure.lower) <= value && value <= Long(enclosure.upper);
}

} // namespace

TEST_SUITE("intervals") {
  TEST_CASE("no operation of one operand leaves a value, a slope or a curvature out, for any box") {
    const int boxes = testing::is_sanitized ? 3000 : 100'000;
    for (const Known& known : functions_of_one()) {
      const IntervalTape tape(parsed(known.formula));
      auto work = tape.workspace();
      RandomStream random(1, {"boxes", known.formula});
      int outside = 0, looked = 0;
      for (int k = 0; k < boxes; ++k) {
        const Interval box = any_interval(random);
        const BoxTraits traits = tape.evaluate({&box, 1}, IntervalTape::Order::hessian, work);
        const double x = any_within(box, random);
        if (x < known.least || x > known.most) continue;
        const bool is_edge = x == known.least || x == known.most || x == 0;
        const bool has_value = !is_edge || std::isfinite(std::pow(x, 2)) ;
        if (!has_value) continue;
        if (is_edge && (std::string(known.formula).starts_with("log") || std::string(known.formula).starts_with("x^-"))) continue;
        ++looked;
        if (traits.nowhere || !holds(tape.value(work), known.value(x))) ++outside;
        if (is_edge) continue; // the slope may be infinite there
        if (!holds(tape.slope(0, work), known.slope(x))) ++outside;
        if (!holds(tape.bend(0, 0, work), known.bend(x))) ++outside;
      }
      CAPTURE(std::string(known.formula));
      CHECK(outside == 0);
      CHECK(looked > boxes / 5);
    }
  }
}
