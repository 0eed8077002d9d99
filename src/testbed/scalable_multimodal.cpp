#include "groups.hpp"
#include "numbers.hpp"

#include <cmath>

/// Functions of any number of variables with many minima.
namespace tanzen::testbed {
namespace {

/// One global minimum with the same coordinate everywhere, and its value.
std::vector<KnownMinimum> one_global(Index n, double coordinate, double value) {
  return {{Vector::Constant(n, coordinate), value, true}};
}

Expr weierstrass(const TracedPoint& x, const OptionValues& options) {
  constexpr double a = 0.5, b = 3;
  const auto last = static_cast<int>(options.at("levels"));
  Expr total;
  double constant = 0;
  for (int k = 0; k <= last; ++k) constant += std::pow(a, k) * std::cos(pi * std::pow(b, k));
  for (Index i = 0; i < x.size(); ++i) {
    for (int k = 0; k <= last; ++k) total += std::pow(a, k) * cos(2 * pi * std::pow(b, k) * (x[i] + 0.5));
  }
  return total - static_cast<double>(x.size()) * constant;
}

Expr katsuura(const TracedPoint& x, const OptionValues& options) {
  const auto bits = static_cast<int>(options.at("levels"));
  const auto n = static_cast<double>(x.size());
  Expr product = 1;
  for (Index i = 0; i < x.size(); ++i) {
    Expr sum;
    for (int k = 1; k <= bits; ++k) {
      const double power = std::pow(2.0, k);
      sum += abs(power * x[i] - round(power * x[i])) / power;
    }
    product *= pow(1 + static_cast<double>(i + 1) * sum, 10 / std::pow(n, 1.2));
  }
  return 10 / (n * n) * product - 10 / (n * n);
}

/// Two quadratic funnels under one ripple; the deeper one is the narrower (Lunacek, Whitley and Sutton, 2008).
Expr double_funnel(const TracedPoint& x, const OptionValues&) {
  const auto n = static_cast<double>(x.size());
  const double near = 2.5, depth = 1, s = 1 - 1 / (2 * std::sqrt(n + 20) - 8.2),
               far = -std::sqrt((near * near - depth) / s);
  Expr first, second, ripple;
  for (Index i = 0; i < x.size(); ++i) {
    first += pow(x[i] - near, 2);
    second += pow(x[i] - far, 2);
    ripple += 1 - cos(2 * pi * (x[i] - near));
  }
  return min(first, depth * n + s * second) + 10 * ripple;
}

std::vector<KnownMinimum> michalewicz_minima(Index n) {
  // Separable: the minimum of each term, found to the last digits.
  constexpr double coordinates[] = {2.2029055201726093, 1.5707963267948966, 1.2849915705529245, 1.9230584698663626,
                                    1.7204697725658413, 1.5707963267948966, 1.4544139713623792, 1.7560865209450265,
                                    1.6557174168210291, 1.5707963267948968};
  constexpr double values[] = {0.8013034100985533, 1.0, 0.959091269896007,  0.9384624184720824,
                               0.9888010806215034, 1.0, 0.9932271353558826, 0.98287203627221,
                               0.9963943649251024, 1.0};
  Vector point(n);
  double value = 0;
  for (Index i = 0; i < n; ++i) {
    point[i] = coordinates[i];
    value -= values[i];
  }
  return {{point, value, true}};
}

std::vector<KnownMinimum> qing_minimum(Index n) {
  Vector point(n);
  for (Index i = 1; i <= n; ++i) point[i - 1] = std::sqrt(static_cast<double>(i));
  return {{point, 0, true}};
}

} // namespace

std::vector<TestFunction> scalable_multimodal_functions() {
  using enum Trait;
  return {
      {.name = "rastrigin",
       .title = "a bowl under a regular grid of pits",
       .formula = "10*n + sum(i = 1..n, x[i]^2 - 10*cos(2*pi*x[i]))",
       .source = "Rastrigin, 1974; Mühlenbein, Schomisch and Born, 1991",
       .traits = {smooth, separable, multimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-5.12, 5.12),
       .minima = at_constant(0, 0)},
      {.name = "ackley",
       .title = "a funnel with ripples, almost flat far away",
       .formula = "20 + e - 20*exp(-0.2*sqrt(sum(i = 1..n, x[i]^2)/n)) - exp(sum(i = 1..n, cos(2*pi*x[i]))/n)",
       .source = "Ackley, 1987; Bäck, 1996",
       .traits = {multimodal, non_differentiable},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-32.768, 32.768),
       .minima = at_constant(0, 0)},
      {.name = "griewank",
       .title = "a wide bowl with a product of waves, easier in more variables",
       .formula = "1 + sum(i = 1..n, x[i]^2)/4000 - product(i = 1..n, cos(x[i]/sqrt(i)))",
       .source = "Griewank, 1981",
       .traits = {smooth, multimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-600, 600),
       .minima = at_constant(0, 0)},
      {.name = "schwefel",
       .title = "waves that grow outwards: the second best is far from the best",
       .formula = "418.9828872724338*n - sum(i = 1..n, x[i]*sin(sqrt(abs(x[i]))))",
       .source = "Schwefel, 1981, problem 2.26",
       .traits = {separable, multimodal, deceptive},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-500, 500),
       .region_is_bounds = true,
       .minima = [](Index n) { return one_global(n, 420.968746359982, 0); }},
      {.name = "levy",
       .title = "waves along a quarter-scaled bowl",
       .formula = "sin(pi*(1 + (x[1] - 1)/4))^2 + sum(i = 1..n-1, ((x[i] - 1)/4)^2*(1 + 10*sin(pi*(1 + (x[i] - 1)/4) + "
                  "1)^2)) + "
                  "((x[n] - 1)/4)^2*(1 + sin(2*pi*(1 + (x[n] - 1)/4))^2)",
       .source = "Levy and Montalvo, 1985; Laguna and Martí, 2005",
       .traits = {smooth, multimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-10, 10),
       .minima = at_constant(1, 0)},
      {.name = "michalewicz",
       .title = "steep narrow valleys that cross on a plain",
       .formula = "-sum(i = 1..n, sin(x[i])*sin(i*x[i]^2/pi)^20)",
       .source = "Michalewicz, 1992",
       .traits = {smooth, separable, multimodal, plateau},
       .dimensions = {1, 10, 2},
       .region = everywhere(0, pi),
       .region_is_bounds = true,
       .minima = michalewicz_minima},
      {.name = "styblinski-tang",
       .title = "two pits in each variable, one a little deeper",
       .formula = "sum(i = 1..n, x[i]^4 - 16*x[i]^2 + 5*x[i])/2",
       .source = "Styblinski and Tang, 1990",
       .traits = {smooth, separable, multimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-5, 5),
       .minima = [](Index n) { return one_global(n, -2.90353402777118, -39.1661657037714 * static_cast<double>(n)); }},
      {.name = "alpine",
       .title = "sharp ranges with zeros on the axes",
       .formula = "sum(i = 1..n, abs(x[i]*sin(x[i]) + 0.1*x[i]))",
       .source = "Clerc, 1999",
       .traits = {separable, multimodal, non_differentiable},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-10, 10),
       .minima = at_constant(0, 0)},
      {.name = "alpine-product",
       .title = "a product of waves; the highest peak is the minimum's mirror",
       .formula = "-product(i = 1..n, sqrt(x[i])*sin(x[i]))",
       .source = "Clerc, 1999",
       .traits = {multimodal},
       .dimensions = {1, 30, 2},
       .region = everywhere(0, 10),
       .region_is_bounds = true,
       .minima =
           [](Index n) {
             return one_global(n, 7.91705268466621, -std::pow(2.80813118000707, static_cast<double>(n)));
           }},
      {.name = "salomon",
       .title = "rings like ripples in a pond",
       .formula = "1 - cos(2*pi*sqrt(sum(i = 1..n, x[i]^2))) + 0.1*sqrt(sum(i = 1..n, x[i]^2))",
       .source = "Salomon, 1996",
       .traits = {multimodal, non_differentiable},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-100, 100),
       .minima = at_constant(0, 0)},
      {.name = "weierstrass",
       .title = "continuous, and rough at every scale",
       .formula =
           "sum(i = 1..n, sum(k = 0..20, 0.5^k*cos(2*pi*3^k*(x[i] + 0.5)))) - n*sum(k = 0..20, 0.5^k*cos(pi*3^k))",
       .source = "Weierstrass, 1872; Suganthan et al., 2005, function 11",
       .traits = {separable, multimodal, non_differentiable},
       .dimensions = {1, 1000, 2},
       .options =
           {{.name = "levels", .usual = 20, .least = 0, .most = 60, .meaning = "the finest wave, as a power of three"}},
       .value = weierstrass,
       .region = everywhere(-0.5, 0.5),
       .minima = at_constant(0, 0)},
      {.name = "katsuura",
       .title = "rough in every variable, with a product over all",
       .formula =
           "10/n^2*product(i = 1..n, 1 + i*sum(k = 1..32, abs(2^k*x[i] - round(2^k*x[i]))/2^k))^(10/n^1.2) - 10/n^2",
       .source = "Katsuura, 1991; Hansen, Finck, Ros and Auger, 2009, function 23",
       .traits = {multimodal, non_differentiable},
       .dimensions = {1, 100, 2},
       .options = {{.name = "levels",
                    .usual = 32,
                    .least = 1,
                    .most = 60,
                    .meaning = "the finest sawtooth, as a power of two"}},
       .value = katsuura,
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "double-funnel",
       .title = "two funnels under ripples: the wider one misleads",
       .formula = "min(sum(i = 1..n, (x[i] - m1)^2), n + s*sum(i = 1..n, (x[i] - m2)^2)) + 10*sum(i = 1..n, 1 - "
                  "cos(2*pi*(x[i] - m1)))",
       .source = "Lunacek, Whitley and Sutton, 2008",
       .traits = {multimodal, deceptive, non_differentiable},
       .dimensions = {2, 1000, 2},
       .value = double_funnel,
       .region = everywhere(-5, 5),
       .minima = at_constant(2.5, 0)},
      {.name = "whitley",
       .title = "the curved valley in every pair, with ripples",
       .formula = "sum(i = 1..n, sum(j = 1..n, (100*(x[i]^2 - x[j])^2 + (1 - x[j])^2)^2/4000 - cos(100*(x[i]^2 - "
                  "x[j])^2 + (1 - x[j])^2) + 1))",
       .source = "Whitley, Mathias, Rana and Dzubera, 1996",
       .traits = {smooth, multimodal, valley},
       .dimensions = {1, 300, 2},
       .region = everywhere(-10.24, 10.24),
       .minima = at_constant(1, 0)},
      {.name = "griewank-valley",
       .title = "ripples along the curved valley, neighbour by neighbour",
       .formula = "sum(i = 1..n-1, (100*(x[i]^2 - x[i+1])^2 + (1 - x[i])^2)/4000 - cos(100*(x[i]^2 - x[i+1])^2 + (1 - "
                  "x[i])^2) + 1)",
       .source = "Hansen, Finck, Ros and Auger, 2009, function 19, without its transforms",
       .traits = {smooth, multimodal, valley},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-5, 5),
       .minima = at_constant(1, 0)},
      {.name = "rana",
       .title = "crooked troughs in every pair of neighbours",
       .formula = "sum(i = 1..n-1, x[i]*cos(sqrt(abs(x[i+1] + x[i] + 1)))*sin(sqrt(abs(x[i+1] - x[i] + 1))) + "
                  "(1 + x[i+1])*sin(sqrt(abs(x[i+1] + x[i] + 1)))*cos(sqrt(abs(x[i+1] - x[i] + 1))))",
       .source = "Whitley, Mathias, Rana and Dzubera, 1996",
       .traits = {multimodal, deceptive, non_differentiable},
       .dimensions = Dimensions::exactly(2),
       .region = everywhere(-512, 512),
       .region_is_bounds = true,
       .minima =
           [](Index) {
             return std::vector<KnownMinimum>{{Coordinates{-488.63257734088677, 512}, -511.73288188661975, true}};
           }},
      {.name = "schaffer-chain",
       .title = "rings around the origin in every pair of neighbours",
       .formula = "sum(i = 1..n-1, 0.5 + (sin(sqrt(x[i]^2 + x[i+1]^2))^2 - 0.5)/(1 + 0.001*(x[i]^2 + x[i+1]^2))^2)",
       .source = "Schaffer, Caruana, Eshelman and Das, 1989, function 6",
       .traits = {multimodal},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-100, 100),
       .minima = at_constant(0, 0)},
      {.name = "cosine-mixture",
       .title = "a bowl with shallow waves",
       .formula = "sum(i = 1..n, x[i]^2) - 0.1*sum(i = 1..n, cos(5*pi*x[i]))",
       .source = "Breiman and Cutler, 1993",
       .traits = {smooth, separable, multimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-1, 1),
       .minima = [](Index n) { return one_global(n, 0, -0.1 * static_cast<double>(n)); }},
      {.name = "qing",
       .title = "a minimum of the same depth in every quadrant",
       .formula = "sum(i = 1..n, (x[i]^2 - i)^2)",
       .source = "Qing, 2006",
       .traits = {smooth, separable, multimodal},
       .dimensions = {1, 200, 2},
       .region = everywhere(-20, 20),
       .minima = qing_minimum},
      {.name = "pathological",
       .title = "waves across the line where neighbours are alike",
       .formula = "sum(i = 1..n-1, 0.5 + (sin(sqrt(100*x[i]^2 + x[i+1]^2))^2 - 0.5)/(1 + 0.001*(x[i]^2 - 2*x[i]*x[i+1] "
                  "+ x[i+1]^2)^2))",
       .source = "Rahnamayan, Tizhoosh and Salama, 2007",
       .traits = {multimodal},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-100, 100),
       .minima = at_constant(0, 0)},
      {.name = "expanding-waves",
       .title = "a sphere under waves that are finer near the origin",
       .formula = "sum(i = 1..n, abs(x[i])^5 + 0.2*abs(x[i])^3*(1 - cos(8*x[i])))",
       .source = "in the manner of Csendes, as in Momin and Yang, 2013, function 40, without the pole",
       .traits = {smooth, separable, multimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-2, 2),
       .minima = at_constant(0, 0)},
      {.name = "happy-cat",
       .title = "a curved groove whose floor falls slowly",
       .formula = "((sum(i = 1..n, x[i]^2) - n)^2)^0.125 + (0.5*sum(i = 1..n, x[i]^2) + sum(i = 1..n, x[i]))/n + 0.5",
       .source = "Beyer and Finck, 2012",
       .traits = {valley, non_differentiable, ill_conditioned},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-2, 2),
       .minima = at_constant(-1, 0)},
      {.name = "wavy-cross",
       .title = "absolute values damped by sines of squares",
       .formula = "sum(i = 1..n, abs(x[i]))*exp(-sum(i = 1..n, sin(x[i]^2)))",
       .source = "Yang, 2010",
       .traits = {multimodal, non_differentiable},
       .dimensions = {1, 100, 2},
       .region = everywhere(-6.283185307179586, 6.283185307179586),
       .minima = at_constant(0, 0)},
      {.name = "pinter",
       .title = "neighbours in a ring, under waves",
       .formula =
           "sum(i = 1..n, i*x[i]^2 + 20*i*sin(if(i == 1, x[n], x[i-1])*sin(x[i]) + sin(if(i == n, x[1], x[i+1])))^2 + "
           "i*log10(1 + i*(if(i == 1, x[n], x[i-1])^2 - 2*x[i] + 3*if(i == n, x[1], x[i+1]) - cos(x[i]) + 1)^2))",
       .source = "Pintér, 1996",
       .traits = {smooth, multimodal},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-10, 10),
       .minima = at_constant(0, 0)},
      {.name = "expanded-steps",
       .title = "a rugged bowl rounded to a grid of halves",
       .formula = "10*n + sum(i = 1..n, (round(2*x[i])/2)^2 - 10*cos(2*pi*round(2*x[i])/2))",
       .source = "Suganthan et al., 2005, non-continuous form",
       .traits = {separable, multimodal, plateau, non_differentiable},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-5.12, 5.12),
       .minima = at_constant(0, 0)},
  };
}

} // namespace tanzen::testbed
