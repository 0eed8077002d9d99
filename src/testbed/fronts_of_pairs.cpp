#include "distances.hpp"
#include "fronts.hpp"
#include "numbers.hpp"

#include "groups.hpp"

#include <cmath>
#include <fmt/format.h>

/// Two objectives with a distance from the front of its own (Zitzler, Deb and Thiele, 2000): f1 of the first variable,
/// g of the others, f2 = g h(f1, g).
namespace tanzen::testbed {
namespace {

struct Pair {
  const char* title;
  const char* formula;
  std::vector<Trait> traits;
  Dimensions dimensions;
  std::function<Objectives(const TracedPoint& x)> objectives;
  std::function<KnownFront(Index n)> front;
};

Expr mean_distance(const TracedPoint& x) {
  return 1 + 9 * sum_from(x, 1, [](const Expr& t) { return t; }) / static_cast<double>(x.size() - 1);
}

Objectives with_first(const TracedPoint& x, const Expr& g,
                      const std::function<Expr(const Expr& f1, const Expr& g)>& h) {
  return {x[0], g * h(x[0], g)};
}

/// A string of bits counts its ones; a variable is a one from 0.5 on.
Expr ones(const TracedPoint& x, Index first, Index bits) {
  Expr count = 0;
  for (Index i = first; i < first + bits; ++i) count += choose(x[i] >= 0.5, 1, 0);
  return count;
}

Objectives deceptive_bits(const TracedPoint& x) {
  constexpr Index head = 30, bits = 5;
  const Expr first = 1 + ones(x, 0, head);
  Expr g = 0;
  for (Index at = head; at < x.size(); at += bits) {
    const Expr u = ones(x, at, bits);
    g += choose(u < static_cast<double>(bits), 2 + u, 1);
  }
  return {first, g / first};
}

KnownFront root_front(Index) {
  // Even in the root, where the front is steep.
  return plane_front("f2 = 1 - sqrt(f1), f1 from 0 to 1", {{[](double t) { return PlanePoint{t * t, 1 - t}; }, 0, 1}});
}

std::vector<Pair> pairs_of_2000() {
  const double first_least = [] {
    // Where f1 of the sixth is least: tan(6 pi x) = 9 pi, the first time.
    const double x = std::atan(9 * pi) / (6 * pi);
    return 1 - std::exp(-4 * x) * std::pow(std::sin(6 * pi * x), 6);
  }();
  return {
      {"convex front",
       "f1 = x[1], g = 1 + 9 sum x[i]/(n - 1), f2 = g (1 - sqrt(f1/g))",
       {Trait::unimodal},
       Dimensions::from(2, 30),
       [](const TracedPoint& x) {
         return with_first(x, mean_distance(x), [](const Expr& f1, const Expr& g) { return 1 - sqrt(f1 / g); });
       },
       root_front},
      {"front that is not convex",
       "f1 = x[1], g = 1 + 9 sum x[i]/(n - 1), f2 = g (1 - (f1/g)^2)",
       {Trait::smooth, Trait::unimodal},
       Dimensions::from(2, 30),
       [](const TracedPoint& x) {
         return with_first(x, mean_distance(x), [](const Expr& f1, const Expr& g) { return 1 - pow(f1 / g, 2); });
       },
       [](Index) {
         return plane_front(
             "f2 = 1 - f1^2, f1 from 0 to 1", [](double t) { return 1 - t * t; }, 0, 1);
       }},
      {"front in five pieces",
       "f1 = x[1], g = 1 + 9 sum x[i]/(n - 1), f2 = g (1 - sqrt(f1/g) - f1/g sin(10 pi f1))",
       {Trait::multimodal},
       Dimensions::from(2, 30),
       [](const TracedPoint& x) {
         return with_first(x, mean_distance(x),
                           [](const Expr& f1, const Expr& g) { return 1 - sqrt(f1 / g) - f1 / g * sin(10 * pi * f1); });
       },
       [](Index) {
         return plane_front("f2 = 1 - sqrt(f1) - f1 sin(10 pi f1), f1 from 0 to 1, as far as it is nondominated",
                            {{[](double t) {
                                return PlanePoint{t * t, 1 - t - t * t * std::sin(10 * pi * t * t)};
                              },
                              0, 1}});
       }},
      {"21^9 local fronts",
       "f1 = x[1], g = 1 + 10 (n - 1) + sum (x[i]^2 - 10 cos(4 pi x[i])), f2 = g (1 - sqrt(f1/g))",
       {Trait::multimodal},
       Dimensions::from(2, 10),
       [](const TracedPoint& x) {
         const Expr rugged = 1 + 10 * static_cast<double>(x.size() - 1) + ripples(x, 1, 0, 4, 10);
         return with_first(x, rugged, [](const Expr& f1, const Expr& g) { return 1 - sqrt(f1 / g); });
       },
       root_front},
      {"deceptive strings of 80 bits, each a variable that is a one from 0.5 on",
       "f1 = 1 + u(first 30), g = sum over strings of 5 of (2 + u for u < 5, 1 for u = 5), f2 = g/f1; u counts ones",
       {Trait::deceptive, Trait::plateau, Trait::non_differentiable},
       Dimensions::exactly(80),
       deceptive_bits,
       [](Index) {
         return plane_front("f2 = 10/f1 for f1 = 1, 2, ..., 31", [] {
           Matrix points(2, 31);
           for (Index k = 0; k < 31; ++k) points.col(k) << static_cast<double>(k + 1), 10 / static_cast<double>(k + 1);
           return points;
         }());
       }},
      {"front that is thin at one end",
       "f1 = 1 - exp(-4 x[1]) sin(6 pi x[1])^6, g = 1 + 9 (sum x[i]/(n - 1))^0.25, f2 = g (1 - (f1/g)^2)",
       {Trait::multimodal},
       Dimensions::from(2, 10),
       [](const TracedPoint& x) {
         const Expr first = 1 - exp(-4 * x[0]) * pow(sin(6 * pi * x[0]), 6);
         const Expr g =
             1 + 9 * pow(sum_from(x, 1, [](const Expr& t) { return t; }) / static_cast<double>(x.size() - 1), 0.25);
         return Objectives{first, g * (1 - pow(first / g, 2))};
       },
       [first_least](Index) {
         return plane_front(
             "f2 = 1 - f1^2, f1 from 0.2807753191 to 1", [](double t) { return 1 - t * t; }, first_least, 1);
       }},
  };
}

std::function<Box(Index)> region_of_pair(int number) {
  if (number != 4) return everywhere(0, 1);
  return [](Index n) {
    Box box{Vector::Constant(n, -5), Vector::Constant(n, 5)};
    box.lower[0] = 0;
    box.upper[0] = 1;
    return box;
  };
}

} // namespace

std::vector<TestFunction> paired_front_functions() {
  std::vector<TestFunction> functions;
  int number = 0;
  for (Pair& pair : pairs_of_2000()) {
    ++number;
    TestFunction function;
    function.name = fmt::format("zdt-{}", number);
    function.title = fmt::format("two objectives, {}: {}", number, pair.title);
    function.formula = pair.formula;
    function.source = "Zitzler, Deb and Thiele, 2000";
    function.traits = pair.traits;
    function.traits.push_back(Trait::several_objectives);
    function.dimensions = pair.dimensions;
    function.objectives = [objectives = pair.objectives](const TracedPoint& x, const OptionValues&) {
      return objectives(x);
    };
    function.front = [front = pair.front](Index n, const OptionValues&) { return std::optional(front(n)); };
    function.region = region_of_pair(number);
    function.region_is_bounds = true;
    functions.push_back(std::move(function));
  }
  return functions;
}

} // namespace tanzen::testbed
