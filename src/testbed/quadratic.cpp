#include "groups.hpp"

#include <cmath>

/// Quadratics, powers and other functions with one minimum.
namespace tanzen::testbed {
namespace {

/// The largest absolute coordinate: a series that formulas do not have.
Expr largest_absolute(const TracedPoint& x, const OptionValues&) {
  Expr largest = abs(x[0]);
  for (Index i = 1; i < x.size(); ++i) largest = max(largest, abs(x[i]));
  return largest;
}

Vector rosenbrock_start(Index n) {
  Vector start(n);
  for (Index i = 0; i < n; ++i) start[i] = i % 2 == 0 ? -1.2 : 1;
  return start;
}

std::vector<KnownMinimum> trid_minimum(Index n) {
  Vector point(n);
  for (Index i = 1; i <= n; ++i) point[i - 1] = static_cast<double>(i * (n + 1 - i));
  const auto size = static_cast<double>(n);
  return {{point, -size * (size + 4) * (size - 1) / 6, true}};
}

std::vector<KnownMinimum> dixon_price_minimum(Index n) {
  Vector point(n);
  for (Index i = 1; i <= n; ++i) {
    const double power = std::pow(2.0, static_cast<double>(i));
    point[i - 1] = std::pow(2.0, -(power - 2) / power);
  }
  return {{point, 0, true}};
}

std::vector<KnownMinimum> chain_minimum(Index n) {
  const auto size = static_cast<double>(n);
  Vector point(n);
  for (Index i = 1; i <= n; ++i) point[i - 1] = 1 - static_cast<double>(i) / (size + 1);
  return {{point, 0.5 * (1 / (size + 1) - 1), true}};
}

std::vector<KnownMinimum> arrowhead_minimum(Index n) {
  Vector point = Vector::Ones(n);
  point[n - 1] = 0;
  return {{point, 0, true}};
}

std::vector<KnownMinimum> inverse_indices(Index n) {
  Vector point(n);
  for (Index i = 1; i <= n; ++i) point[i - 1] = 1.0 / static_cast<double>(i);
  return {{point, 0, true}};
}

} // namespace

std::vector<TestFunction> quadratic_functions() {
  using enum Trait;
  return {
      {.name = "sphere",
       .title = "sum of squares, the easiest there is",
       .formula = "sum(i = 1..n, x[i]^2)",
       .source = "Rechenberg, 1973",
       .traits = {smooth, convex, separable, unimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "ellipsoid",
       .title = "axis-parallel quadratic with curvatures evenly spread in their logarithm",
       .formula = "sum(i = 1..n, condition^((i - 1)/(n - 1))*x[i]^2)",
       .source = "Hansen and Ostermeier, 2001, table 2",
       .traits = {smooth, convex, separable, unimodal, ill_conditioned},
       .dimensions = Dimensions::from(2),
       .options =
           {{.name = "condition", .usual = 1e6, .least = 1, .meaning = "largest curvature divided by the smallest"}},
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "cigar",
       .title = "one soft direction among stiff ones",
       .formula = "x[1]^2 + condition*sum(i = 2..n, x[i]^2)",
       .source = "Hansen and Ostermeier, 2001, table 2",
       .traits = {smooth, convex, separable, unimodal, ill_conditioned},
       .dimensions = Dimensions::from(2),
       .options = {{.name = "condition",
                    .usual = 1e6,
                    .least = 1,
                    .meaning = "curvature of the stiff directions against the soft one"}},
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "tablet",
       .title = "one stiff direction among soft ones",
       .formula = "condition*x[1]^2 + sum(i = 2..n, x[i]^2)",
       .source = "Hansen and Ostermeier, 2001, table 2",
       .traits = {smooth, convex, separable, unimodal, ill_conditioned},
       .dimensions = Dimensions::from(2),
       .options = {{.name = "condition",
                    .usual = 1e6,
                    .least = 1,
                    .meaning = "curvature of the stiff direction against the soft ones"}},
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "weighted-sphere",
       .title = "squares with rising weights",
       .formula = "sum(i = 1..n, i*x[i]^2)",
       .source = "De Jong, 1975",
       .traits = {smooth, convex, separable, unimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-5.12, 5.12),
       .minima = at_constant(0, 0)},
      {.name = "schwefel-double-sum",
       .title = "a quadratic whose axes are not the coordinates'",
       .formula = "sum(i = 1..n, sum(j = 1..i, x[j])^2)",
       .source = "Schwefel, 1981, problem 1.2",
       .traits = {smooth, convex, unimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-100, 100),
       .minima = at_constant(0, 0)},
      {.name = "quadratic-chain",
       .title = "neighbours tied by springs: information travels one variable an iteration",
       .formula = "(x[1]^2 + sum(i = 1..n-1, (x[i] - x[i+1])^2) + x[n]^2)/2 - x[1]",
       .source = "Nesterov, 2004, section 2.1.2",
       .traits = {smooth, convex, unimodal, ill_conditioned},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-5, 5),
       .minima = chain_minimum},
      {.name = "trid",
       .title = "a quadratic with a tridiagonal Hessian and a distant minimum",
       .formula = "sum(i = 1..n, (x[i] - 1)^2) - sum(i = 2..n, x[i]*x[i-1])",
       .source = "Neumaier, 2003, problem 2",
       .traits = {smooth, convex, unimodal},
       .dimensions = {2, 200, 6},
       .region =
           [](Index n) {
             const auto side = static_cast<double>(n * n);
             return Box{Vector::Constant(n, -side), Vector::Constant(n, side)};
           },
       .minima = trid_minimum},
      {.name = "zakharov",
       .title = "a bowl with a plate that grows with the fourth power",
       .formula = "sum(i = 1..n, x[i]^2) + sum(i = 1..n, 0.5*i*x[i])^2 + sum(i = 1..n, 0.5*i*x[i])^4",
       .source = "Rahnamayan, Tizhoosh and Salama, 2007",
       .traits = {smooth, convex, unimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-5, 10),
       .minima = at_constant(0, 0)},
      {.name = "rosenbrock",
       .title = "curved valley: easy to enter, slow to follow",
       .formula = "sum(i = 1..n-1, 100*(x[i+1] - x[i]^2)^2 + (1 - x[i])^2)",
       .source = "Rosenbrock, 1960; Moré, Garbow and Hillstrom, 1981, problem 1; chained for more variables",
       .traits = {smooth, valley, ill_conditioned},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-2.048, 2.048),
       .start = rosenbrock_start,
       .minima = at_constant(1, 0)},
      {.name = "dixon-price",
       .title = "a chain with two mirrored minima",
       .formula = "(x[1] - 1)^2 + sum(i = 2..n, i*(2*x[i]^2 - x[i-1])^2)",
       .source = "Dixon and Price, 1989",
       .traits = {smooth, valley},
       .dimensions = {2, 50, 2},
       .region = everywhere(-10, 10),
       .minima = dixon_price_minimum},
      {.name = "quartic",
       .title = "fourth powers: the curvature vanishes at the minimum",
       .formula = "sum(i = 1..n, i*x[i]^4)",
       .source = "De Jong, 1975, without its noise",
       .traits = {smooth, convex, separable, unimodal, plateau},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-1.28, 1.28),
       .minima = at_constant(0, 0)},
      {.name = "chung-reynolds",
       .title = "the square of the sphere",
       .formula = "sum(i = 1..n, x[i]^2)^2",
       .source = "Chung and Reynolds, 1998",
       .traits = {smooth, convex, unimodal, plateau},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-100, 100),
       .minima = at_constant(0, 0)},
      {.name = "different-powers",
       .title = "each variable with a power of its own",
       .formula = "sum(i = 1..n, abs(x[i])^(2 + 4*(i - 1)/(n - 1)))",
       .source = "Hansen and Ostermeier, 2001, table 2",
       .traits = {smooth, convex, separable, unimodal},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "sum-of-powers",
       .title = "rising powers of the absolute coordinates",
       .formula = "sum(i = 1..n, abs(x[i])^(i + 1))",
       .source = "Yao and Liu, 1997",
       .traits = {convex, separable, unimodal},
       .dimensions = {1, 60, 2},
       .region = everywhere(-1, 1),
       .minima = at_constant(0, 0)},
      {.name = "exponential",
       .title = "a pit that flattens out",
       .formula = "-exp(-0.5*sum(i = 1..n, x[i]^2))",
       .source = "Rahnamayan, Tizhoosh and Salama, 2007",
       .traits = {smooth, unimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-1, 1),
       .minima = at_constant(0, -1)},
      {.name = "brown-powers",
       .title = "powers whose exponents are the neighbours",
       .formula = "sum(i = 1..n-1, (x[i]^2)^(x[i+1]^2 + 1) + (x[i+1]^2)^(x[i]^2 + 1))",
       .source = "Begambre and Laier, 2009",
       .traits = {smooth, unimodal},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-1, 4),
       .minima = at_constant(0, 0)},
      {.name = "arrowhead",
       .title = "every variable tied to the last one",
       .formula = "sum(i = 1..n-1, (x[i]^2 + x[n]^2)^2 - 4*x[i] + 3)",
       .source = "Conn, Gould, Lescrenier and Toint, 1994",
       .traits = {smooth, unimodal},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-2, 2),
       .start = [](Index n) { return Vector::Ones(n).eval(); },
       .minima = arrowhead_minimum},
      {.name = "sharp-ridge",
       .title = "a ridge that does not flatten towards its line",
       .formula = "x[1]^2 + 100*sqrt(sum(i = 2..n, x[i]^2))",
       .source = "Hansen, Finck, Ros and Auger, 2009, function 13",
       .traits = {convex, unimodal, non_differentiable, ill_conditioned},
       .dimensions = Dimensions::from(2),
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "largest-coordinate",
       .title = "the largest absolute coordinate: a cube's edges and corners",
       .formula = "max(abs(x[1]), ..., abs(x[n]))",
       .source = "Schwefel, 1981, problem 2.21",
       .traits = {convex, unimodal, non_differentiable},
       .dimensions = Dimensions::from(1),
       .value = largest_absolute,
       .region = everywhere(-100, 100),
       .minima = at_constant(0, 0)},
      {.name = "schwefel-sum-product",
       .title = "the sum and the product of absolute coordinates",
       .formula = "sum(i = 1..n, abs(x[i])) + product(i = 1..n, abs(x[i]))",
       .source = "Schwefel, 1981, problem 2.22",
       .traits = {unimodal, non_differentiable},
       .dimensions = {1, 100, 2},
       .region = everywhere(-10, 10),
       .minima = at_constant(0, 0)},
      {.name = "absolute-sum",
       .title = "the sum of absolute coordinates",
       .formula = "sum(i = 1..n, abs(x[i]))",
       .source = "Schwefel, 1981, problem 2.20",
       .traits = {convex, separable, unimodal, non_differentiable},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-100, 100),
       .minima = at_constant(0, 0)},
      {.name = "steps",
       .title = "a staircase: no slope tells the way",
       .formula = "sum(i = 1..n, floor(x[i] + 0.5)^2)",
       .source = "De Jong, 1975; Yao and Liu, 1997",
       .traits = {separable, unimodal, plateau, non_differentiable},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-100, 100),
       .minima = at_constant(0, 0)},
      {.name = "permutation-bowl",
       .title = "sums of weighted powers that vanish together at (1, 1/2, 1/3, ...)",
       .formula = "sum(i = 1..n, sum(j = 1..n, (j + beta)*(x[j]^i - 1/j^i))^2)",
       .source = "Neumaier, 2003, problem 1, second form",
       .traits = {smooth, ill_conditioned, valley},
       .dimensions = {2, 20, 2},
       .options = {{.name = "beta", .usual = 10, .least = 0, .meaning = "larger is easier"}},
       .region = everywhere(-2, 2),
       .minima = inverse_indices},
      {.name = "cubic-bowl",
       .title = "the sum of absolute cubes",
       .formula = "sum(i = 1..n, abs(x[i])^3)",
       .source = "Ortega and Rheinboldt, 1970, as an example of a vanishing Hessian",
       .traits = {smooth, convex, separable, unimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "log-barrier",
       .title = "a centre between walls: no value beyond them",
       .formula = "-sum(i = 1..n, log(1 - x[i]) + log(1 + x[i]))",
       .source = "Boyd and Vandenberghe, 2004, section 8.5.3",
       .traits = {smooth, convex, separable, unimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-0.99, 0.99),
       .minima = at_constant(0, 0)},
      {.name = "soft-maximum",
       .title = "the logarithm of a sum of exponentials, held by a small quadratic",
       .formula = "log(sum(i = 1..n, exp(x[i]) + exp(-x[i]))) + sum(i = 1..n, x[i]^2)/100",
       .source = "Boyd and Vandenberghe, 2004, section 3.1.5",
       .traits = {smooth, convex, unimodal},
       .dimensions = Dimensions::from(1),
       .region = everywhere(-10, 10),
       .minima =
           [](Index n) {
             return std::vector<KnownMinimum>{{Vector::Zero(n), std::log(2.0 * static_cast<double>(n)), true}};
           }},
  };
}

} // namespace tanzen::testbed
