#include "groups.hpp"

namespace tanzen::testbed {

std::vector<TestFunction> valley_functions() {
  using enum Trait;
  return {
      {.name = "rosenbrock",
       .title = "curved valley: easy to enter, slow to follow",
       .formula = "sum(i = 1..n-1, 100*(x[i+1] - x[i]^2)^2 + (1 - x[i])^2)",
       .source = "Rosenbrock, 1960; the chained form for more variables",
       .traits = {smooth, valley, ill_conditioned},
       .dimensions = Dimensions::from(2),
       .value =
           [](const TracedPoint& x, const OptionValues&) {
             Expr total;
             for (Index i = 0; i + 1 < x.size(); ++i) {
               total += 100 * pow(x[i + 1] - pow(x[i], 2), 2) + pow(1 - x[i], 2);
             }
             return total;
           },
       .region = everywhere(-2.048, 2.048),
       .start =
           [](Index n) {
             Vector start(n);
             for (Index i = 0; i < n; ++i) start[i] = i % 2 == 0 ? -1.2 : 1;
             return start;
           },
       .minima = at_constant(1, 0)},
      {.name = "beale",
       .title = "a flat valley with steep corners",
       .formula = "(1.5 - x1*(1 - x2))^2 + (2.25 - x1*(1 - x2^2))^2 + (2.625 - x1*(1 - x2^3))^2",
       .source = "Beale, 1958; Moré, Garbow and Hillstrom, 1981, problem 5",
       .traits = {smooth, valley},
       .dimensions = Dimensions::exactly(2),
       .value =
           [](const TracedPoint& x, const OptionValues&) {
             const double wanted[] = {1.5, 2.25, 2.625};
             Expr total;
             for (int i = 0; i < 3; ++i) total += pow(wanted[i] - x[0] * (1 - pow(x[1], i + 1)), 2);
             return total;
           },
       .region = everywhere(-4.5, 4.5),
       .start = [](Index n) { return Vector::Constant(n, 1).eval(); },
       .minima =
           [](Index) {
             return std::vector<KnownMinimum>{{Coordinates{3, 0.5}, 0, true}};
           }},
      {.name = "himmelblau",
       .title = "four minima of the same depth",
       .formula = "(x1^2 + x2 - 11)^2 + (x1 + x2^2 - 7)^2",
       .source = "Himmelblau, 1972, problem 29",
       .traits = {smooth, multimodal},
       .dimensions = Dimensions::exactly(2),
       .value = [](const TracedPoint& x,
                   const OptionValues&) { return pow(pow(x[0], 2) + x[1] - 11, 2) + pow(x[0] + pow(x[1], 2) - 7, 2); },
       .region = everywhere(-6, 6),
       .minima =
           [](Index) {
             return std::vector<KnownMinimum>{{Coordinates{3, 2}, 0, true},
                                              {Coordinates{-2.8051180869527448, 3.1313125182505730}, 0, true},
                                              {Coordinates{-3.7793102533777469, -3.2831859912861694}, 0, true},
                                              {Coordinates{3.5844283403304917, -1.8481265269644034}, 0, true}};
           }},
  };
}

} // namespace tanzen::testbed
