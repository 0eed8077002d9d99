#include "groups.hpp"

#include <array>
#include <cmath>
#include <numbers>

/// Multimodal functions that are defined by tables of numbers, and others of a fixed number of variables.
namespace tanzen::testbed {
namespace {

constexpr double shekel_centers[10][4] = {{4, 4, 4, 4}, {1, 1, 1, 1}, {8, 8, 8, 8}, {6, 6, 6, 6}, {3, 7, 3, 7},
                                          {2, 9, 2, 9}, {5, 5, 3, 3}, {8, 1, 8, 1}, {6, 2, 6, 2}, {7, 3.6, 7, 3.6}};
constexpr double shekel_widths[10] = {0.1, 0.2, 0.2, 0.4, 0.4, 0.6, 0.3, 0.7, 0.5, 0.5};

Expr shekel(const TracedPoint& x, int terms) {
  Expr total;
  for (int k = 0; k < terms; ++k) {
    Expr distance = shekel_widths[k];
    for (Index i = 0; i < 4; ++i) distance += pow(x[i] - shekel_centers[k][i], 2);
    total -= 1 / distance;
  }
  return total;
}

constexpr double hartmann_heights[4] = {1, 1.2, 3, 3.2};
constexpr double hartmann3_scales[4][3] = {{3, 10, 30}, {0.1, 10, 35}, {3, 10, 30}, {0.1, 10, 35}};
constexpr double hartmann3_centers[4][3] = {
    {0.3689, 0.1170, 0.2673}, {0.4699, 0.4387, 0.7470}, {0.1091, 0.8732, 0.5547}, {0.03815, 0.5743, 0.8828}};
constexpr double hartmann6_scales[4][6] = {
    {10, 3, 17, 3.5, 1.7, 8}, {0.05, 10, 17, 0.1, 8, 14}, {3, 3.5, 1.7, 10, 17, 8}, {17, 8, 0.05, 10, 0.1, 14}};
constexpr double hartmann6_centers[4][6] = {{0.1312, 0.1696, 0.5569, 0.0124, 0.8283, 0.5886},
                                            {0.2329, 0.4135, 0.8307, 0.3736, 0.1004, 0.9991},
                                            {0.2348, 0.1451, 0.3522, 0.2883, 0.3047, 0.6650},
                                            {0.4047, 0.8828, 0.8732, 0.5743, 0.1091, 0.0381}};

template <std::size_t n>
Expr hartmann(const TracedPoint& x, const double (&scales)[4][n], const double (&centers)[4][n]) {
  Expr total;
  for (std::size_t k = 0; k < 4; ++k) {
    Expr distance;
    for (std::size_t i = 0; i < n; ++i) distance += scales[k][i] * pow(x[static_cast<Index>(i)] - centers[k][i], 2);
    total -= hartmann_heights[k] * exp(-distance);
  }
  return total;
}

Expr langermann(const TracedPoint& x, const OptionValues&) {
  constexpr double a[5] = {3, 5, 2, 1, 7}, b[5] = {5, 2, 1, 4, 9}, heights[5] = {1, 2, 5, 2, 3};
  Expr total;
  for (int k = 0; k < 5; ++k) {
    const Expr distance = pow(x[0] - a[k], 2) + pow(x[1] - b[k], 2);
    total -= heights[k] * exp(-distance / std::numbers::pi) * cos(std::numbers::pi * distance);
  }
  return total;
}

/// De Jong's fifth function: 25 holes on a grid.
Expr foxholes(const TracedPoint& x, const OptionValues&) {
  constexpr double places[5] = {-32, -16, 0, 16, 32};
  Expr total = 0.002;
  for (int j = 0; j < 25; ++j) {
    total += 1 / (j + 1 + pow(x[0] - places[j % 5], 6) + pow(x[1] - places[j / 5], 6));
  }
  return 1 / total;
}

std::function<std::vector<KnownMinimum>(Index)> once(Coordinates point, double value) {
  return [=](Index) { return std::vector<KnownMinimum>{{point.vector(), value, true}}; };
}

} // namespace

std::vector<TestFunction> tabled_functions() {
  using enum Trait;
  const std::string dixon = "Dixon and Szegö, 1978";
  return {
      {.name = "shekel-5",
       .title = "five pits of different width",
       .formula = "-sum over 5 centres of 1/(width + squared distance)",
       .source = dixon,
       .traits = {smooth, multimodal, plateau},
       .dimensions = Dimensions::exactly(4),
       .value = [](const TracedPoint& x, const OptionValues&) { return shekel(x, 5); },
       .region = everywhere(0, 10),
       .minima = once({4.000037152819676, 4.00013327659156, 4.000037152819676, 4.00013327659156}, -10.15319967905823)},
      {.name = "shekel-7",
       .title = "seven pits of different width",
       .formula = "-sum over 7 centres of 1/(width + squared distance)",
       .source = dixon,
       .traits = {smooth, multimodal, plateau},
       .dimensions = Dimensions::exactly(4),
       .value = [](const TracedPoint& x, const OptionValues&) { return shekel(x, 7); },
       .region = everywhere(0, 10),
       .minima =
           once({4.000572916185824, 4.000689366185304, 3.9994897088591506, 3.999606158858631}, -10.40294056681866)},
      {.name = "shekel-10",
       .title = "ten pits of different width",
       .formula = "-sum over 10 centres of 1/(width + squared distance)",
       .source = dixon,
       .traits = {smooth, multimodal, plateau},
       .dimensions = Dimensions::exactly(4),
       .value = [](const TracedPoint& x, const OptionValues&) { return shekel(x, 10); },
       .region = everywhere(0, 10),
       .minima =
           once({4.000746531592046, 4.000592934138531, 3.9996633980403224, 3.9995098005868073}, -10.53640981669204)},
      {.name = "hartmann-3",
       .title = "four Gaussian pits in a cube",
       .formula = "-sum over 4 pits of height*exp(-weighted squared distance)",
       .source = dixon,
       .traits = {smooth, multimodal},
       .dimensions = Dimensions::exactly(3),
       .value = [](const TracedPoint& x,
                   const OptionValues&) { return hartmann(x, hartmann3_scales, hartmann3_centers); },
       .region = everywhere(0, 1),
       .minima = once({0.11461433858966708, 0.55564884997185882, 0.85254695352086673}, -3.8627821478207558)},
      {.name = "hartmann-6",
       .title = "four Gaussian pits in six dimensions",
       .formula = "-sum over 4 pits of height*exp(-weighted squared distance)",
       .source = dixon,
       .traits = {smooth, multimodal},
       .dimensions = Dimensions::exactly(6),
       .value = [](const TracedPoint& x,
                   const OptionValues&) { return hartmann(x, hartmann6_scales, hartmann6_centers); },
       .region = everywhere(0, 1),
       .minima = once({0.20168951100670543, 0.15001069182345797, 0.47687397422189698, 0.27533243049405609,
                       0.31165161660011326, 0.65730053406562039},
                      -3.3223680114155152)},
      {.name = "langermann",
       .title = "five clusters of rings that overlap",
       .formula = "-sum over 5 centres of height*exp(-distance^2/pi)*cos(pi*distance^2)",
       .source = "Langerman; Bersini et al., 1996; five centres as in Molga and Smutnicki, 2005",
       .traits = {smooth, multimodal},
       .dimensions = Dimensions::exactly(2),
       .value = langermann,
       .region = everywhere(0, 10),
       .minima = once({2.0029921199344654, 1.0060959402921885}, -5.1621261599639814)},
      {.name = "foxholes",
       .title = "twenty-five holes in a board",
       .formula = "1/(0.002 + sum over 25 holes of 1/(j + (x1 - a_j)^6 + (x2 - b_j)^6))",
       .source = "De Jong, 1975, function 5",
       .traits = {smooth, multimodal, plateau},
       .dimensions = Dimensions::exactly(2),
       .value = foxholes,
       .region = everywhere(-65.536, 65.536),
       .minima = once({-31.978334835656973, -31.978334837300793}, 0.99800383779445)},
      {.name = "paviani",
       .title = "logarithms of distances to both ends, less a product",
       .formula = "sum(i = 1..10, log(x[i] - 2)^2 + log(10 - x[i])^2) - product(i = 1..10, x[i])^0.2",
       .source = "Himmelblau, 1972, problem 17",
       .traits = {smooth, unimodal},
       .dimensions = Dimensions::exactly(10),
       .region = everywhere(2.001, 9.999),
       .region_is_bounds = true,
       .minima =
           [](Index n) {
             return std::vector<KnownMinimum>{{Vector::Constant(n, 9.350265833), -45.77846970745, true}};
           }},
      {.name = "gear-train",
       .title = "four real-valued gear sizes for one ratio: a surface of minima",
       .formula = "(1/6.931 - x1*x2/(x3*x4))^2",
       .source = "Sandgren, 1990, without its whole numbers",
       .traits = {smooth, valley, plateau},
       .dimensions = Dimensions::exactly(4),
       .region = everywhere(12, 60),
       .minima =
           [](Index) {
             return std::vector<KnownMinimum>{{Vector{{20, 20, 50, 400 * 6.931 / 50}}, 0, true}};
           }},
      {.name = "kiln-shelves",
       .title = "three shelves in a kiln, each too near to its neighbours or the walls",
       .formula =
           "0.5/x1 + 0.4/(x2 - x1) + 0.4/(x3 - x2) + 0.5/(3 - x3) + 0.2*cos(4*x1) + 0.2*cos(4*x2) + 0.2*cos(4*x3)",
       .source = "made up for this testbed",
       .traits = {smooth, multimodal},
       .dimensions = Dimensions::exactly(3),
       .region =
           [](Index) {
             return Box{Vector{{0.1, 1.1, 2.1}}, Vector{{0.9, 1.9, 2.9}}};
           },
       .region_is_bounds = true,
       .minima = once({0.72155198344015725, 1.308151629398761, 2.2323688007178268}, 2.188935587444055)},
  };
}

} // namespace tanzen::testbed
