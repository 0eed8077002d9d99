#include "groups.hpp"

#include <numbers>

namespace tanzen::testbed {
namespace {

using std::numbers::e;
using std::numbers::pi;

} // namespace

std::vector<TestFunction> multimodal_functions() {
  using enum Trait;
  return {
      {.name = "rastrigin",
       .title = "a bowl under a regular grid of pits",
       .formula = "10*n + sum(i = 1..n, x[i]^2 - 10*cos(2*pi*x[i]))",
       .source = "Rastrigin, 1974; Mühlenbein, Schomisch and Born, 1991",
       .traits = {smooth, separable, multimodal},
       .dimensions = Dimensions::from(1),
       .value =
           [](const TracedPoint& x, const OptionValues&) {
             Expr total;
             for (Index i = 0; i < x.size(); ++i) total += pow(x[i], 2) - 10 * cos(2 * pi * x[i]) + 10;
             return total;
           },
       .region = everywhere(-5.12, 5.12),
       .minima = at_constant(0, 0)},
      {.name = "ackley",
       .title = "a funnel with ripples, almost flat far away",
       .formula = "20 + e - 20*exp(-0.2*sqrt(sum(i = 1..n, x[i]^2)/n)) - exp(sum(i = 1..n, cos(2*pi*x[i]))/n)",
       .source = "Ackley, 1987; Bäck, 1996",
       .traits = {multimodal, non_differentiable},
       .dimensions = Dimensions::from(1),
       .value =
           [](const TracedPoint& x, const OptionValues&) {
             const auto n = static_cast<double>(x.size());
             Expr squares, waves;
             for (Index i = 0; i < x.size(); ++i) {
               squares += pow(x[i], 2);
               waves += cos(2 * pi * x[i]);
             }
             return 20 + e - 20 * exp(-0.2 * sqrt(squares / n)) - exp(waves / n);
           },
       .region = everywhere(-32.768, 32.768),
       .minima = at_constant(0, 0)},
      {.name = "eggholder",
       .title = "deep crooked troughs, the deepest at the border",
       .formula = "-(x2 + 47)*sin(sqrt(abs(x2 + x1/2 + 47))) - x1*sin(sqrt(abs(x1 - x2 - 47)))",
       .source = "Whitley, Mathias, Rana and Dzubera, 1996",
       .traits = {multimodal, deceptive, non_differentiable},
       .dimensions = Dimensions::exactly(2),
       .value =
           [](const TracedPoint& x, const OptionValues&) {
             const Expr raised = x[1] + 47;
             return -raised * sin(sqrt(abs(raised + x[0] / 2))) - x[0] * sin(sqrt(abs(x[0] - raised)));
           },
       .region = everywhere(-512, 512),
       .region_is_bounds = true,
       .minima =
           [](Index) {
             return std::vector<KnownMinimum>{{Coordinates{512, 404.23180514}, -959.64066272085, true}};
           }},
  };
}

} // namespace tanzen::testbed
