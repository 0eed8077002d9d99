#include "groups.hpp"

#include <cmath>

namespace tanzen::testbed {

std::vector<TestFunction> quadratic_functions() {
  using enum Trait;
  return {
      {.name = "sphere",
       .title = "sum of squares, the easiest there is",
       .formula = "sum(i = 1..n, x[i]^2)",
       .source = "Rechenberg, 1973",
       .traits = {smooth, convex, separable, unimodal},
       .dimensions = Dimensions::from(1),
       .value =
           [](const TracedPoint& x, const OptionValues&) {
             Expr total;
             for (Index i = 0; i < x.size(); ++i) total += pow(x[i], 2);
             return total;
           },
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
      {.name = "ellipsoid",
       .title = "axis-parallel quadratic with curvatures evenly spread in their logarithm",
       .formula = "sum(i = 1..n, condition^((i - 1)/(n - 1)) * x[i]^2)",
       .source = "Hansen and Ostermeier, 2001, table 2",
       .traits = {smooth, convex, separable, unimodal, ill_conditioned},
       .dimensions = Dimensions::from(2),
       .options =
           {{.name = "condition", .usual = 1e6, .least = 1, .meaning = "largest curvature divided by the smallest"}},
       .value =
           [](const TracedPoint& x, const OptionValues& options) {
             const double condition = options.at("condition");
             const auto steps = static_cast<double>(x.size() - 1);
             Expr total;
             for (Index i = 0; i < x.size(); ++i) {
               total += std::pow(condition, static_cast<double>(i) / steps) * pow(x[i], 2);
             }
             return total;
           },
       .region = everywhere(-5, 5),
       .minima = at_constant(0, 0)},
  };
}

} // namespace tanzen::testbed
