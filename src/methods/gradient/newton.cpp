#include "tanzen/methods/gradient/newton.hpp"

#include "tanzen/methods/gradient/trust_region_step.hpp"
#include "tanzen/numeric/factors.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// Factors H + shift * I with the smallest shift of a growing series that makes it positive definite (algorithm 3.3).
/// The answer is the shift; NaN where the Hessian has an entry that is no number.
double factor_positive(const Matrix& hessian, Matrix& shifted, CholeskyFactors& factors) {
  const double scale = hessian.norm();
  if (!std::isfinite(scale)) return std::numeric_limits<double>::quiet_NaN();
  const double least = hessian.diagonal().minCoeff();
  const double first = 1e-3 * (scale > 0 ? scale : 1);
  double shift = least > 0 ? 0 : first - least;
  for (;;) {
    shifted = hessian;
    shifted.diagonal().array() += shift;
    if (factors.compute(shifted)) return shift;
    shift = std::max(2 * shift, first);
  }
}

} // namespace

MethodCard Newton::card() {
  return {.title = "Newton's method with a line search",
          .family = "gradient",
          .source = "Nocedal and Wright, 2006, algorithms 3.2 and 3.3",
          .summary =
              "Second derivatives, and quadratic convergence near a minimum. Far from one newton-trust-region is "
              "steadier.",
          .needs = Derivatives::hessian};
}

void Newton::settings(Settings& list) {
  line.settings(list);
}

Search Newton::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const auto line_search = make_line_search(line);
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), direction(n);
  Matrix hessian(n, n), shifted(n, n);
  CholeskyFactors factors(n);
  double value = start.value;
  for (;;) {
    hessian = evaluate.hessian(x);
    const double shift = factor_positive(hessian, shifted, factors);
    direction = -g;
    if (!std::isnan(shift)) factors.solve_in_place(direction);
    const double slope = g.dot(direction);
    const LineStep step = line_search->find(evaluate, x, value, direction, slope, 1);
    if (step.step == 0) {
      co_yield Iteration(x, value).gradient(g).column("step", 0).stalled(no_lower_value);
      continue;
    }
    x.swap(line_search->point);
    g = evaluate.last_gradient();
    value = step.value;
    co_yield Iteration(x, value)
        .gradient(g)
        .column("step", step.step)
        .column("shift", shift)
        .column("trials", static_cast<double>(step.trials));
  }
}

MethodCard TruncatedNewton::card() {
  return {.title = "Newton's method with its equation solved by conjugate gradients, without a Hessian",
          .family = "gradient",
          .source = "Dembo and Steihaug, 1983; Nocedal and Wright, 2006, algorithm 7.1",
          .summary =
              "Second-order convergence with a few vectors of memory: for many variables whose curvatures differ "
              "much.",
          .needs = Derivatives::gradient};
}

void TruncatedNewton::settings(Settings& list) {
  list.add("inner", inner).at_least(1).means("most inner iterations").unset_means("twice the number of variables");
  line.settings(list);
}

Search TruncatedNewton::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  constexpr double no_limit = std::numeric_limits<double>::infinity();
  TruncatedStep truncated(n, inner.value_or(std::max<Index>(2 * n, 10)));
  const auto line_search = make_line_search(line);
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), direction(n);
  double value = start.value;
  for (;;) {
    const auto times = [&](const Vector& along, Vector& product) { evaluate.hessian_times(x, g, along, product); };
    const ModelStep model = truncated.find(times, g, no_limit, direction);
    const double slope = g.dot(direction);
    const LineStep step = line_search->find(evaluate, x, value, direction, slope, 1);
    if (step.step == 0) {
      co_yield Iteration(x, value).gradient(g).column("step", 0).stalled(no_lower_value);
      continue;
    }
    x.swap(line_search->point);
    g = evaluate.last_gradient();
    value = step.value;
    co_yield Iteration(x, value)
        .gradient(g)
        .column("step", step.step)
        .column("inner", static_cast<double>(model.inner_iterations))
        .column("trials", static_cast<double>(step.trials));
  }
}

} // namespace tanzen::methods
