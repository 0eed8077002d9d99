#pragma once

#include "tanzen/expression/expr.hpp"

#include <functional>
#include <numbers>

/// What the functions of 2000 and 2005 measure the distance from their fronts by.
namespace tanzen::testbed {

[[nodiscard]] inline Expr sum_from(const TracedPoint& x, Index first, const std::function<Expr(const Expr&)>& term) {
  Expr sum = 0;
  for (Index i = first; i < x.size(); ++i) sum += term(x[i]);
  return sum;
}

[[nodiscard]] inline Expr ripples(const TracedPoint& x, Index first, double middle, double waves, double height) {
  return sum_from(x, first, [=](const Expr& t) {
    return pow(t - middle, 2) - height * cos(waves * std::numbers::pi * (t - middle));
  });
}

} // namespace tanzen::testbed
