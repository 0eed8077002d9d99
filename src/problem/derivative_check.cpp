#include "tanzen/problem/derivative_check.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/numeric/sampling.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>

namespace tanzen {
namespace {

/// Above this relative difference a formula is wrong; below it, and above what rounding leaves, it is called rounding.
constexpr double wrong_above = 1e-5, rounding_above = 1e-12;

/// The points to compare at: the start where there is one, and random ones.
Matrix points_to_check(const Problem& problem, int points, std::uint64_t seed) {
  Matrix places = uniform_points(problem.region(), points, RandomStream(seed, {"derivative check", problem.name()}));
  if (problem.start()) places.col(0) = *problem.start();
  return places;
}

using Slope = std::function<ExtrapolatedSlope(const Vector& x, Index variable)>;

/// What is claimed at each place against what is expected there, entry by entry.
DerivativeCheck compared(const Problem& problem, const Matrix& places, const SuppliedGradient& claim,
                         const Slope& expect, bool against_exact) {
  DerivativeCheck check;
  check.against_exact = against_exact;
  const auto worker = problem.objective().worker();
  for (Index k = 0; k < places.cols(); ++k) {
    const Vector x = places.col(k);
    if (!std::isfinite(worker->value(x))) continue;
    ++check.points;
    const Vector claimed = claim(x);
    const double scale = 1e-6 * (1 + claimed.cwiseAbs().maxCoeff());
    for (Index i = 0; i < x.size(); ++i) {
      const ExtrapolatedSlope expected = expect(x, i);
      const double size = std::max({std::abs(expected.value), std::abs(claimed[i]), scale});
      const double error = std::abs(claimed[i] - expected.value) / size;
      if (error <= check.relative_error && check.worst_point.size() > 0) continue;
      check.relative_error = std::isnan(error) ? std::numeric_limits<double>::infinity() : error;
      check.expected_error = expected.error / size;
      check.worst_variable = i;
      check.worst_point = x;
      check.supplied = claimed[i];
      check.expected = expected.value;
    }
  }
  using enum DerivativeCheck::Verdict;
  const double believable = std::max(wrong_above, 100 * check.expected_error);
  if (check.relative_error > believable)
    check.verdict = wrong_formula;
  else
    check.verdict = check.relative_error > rounding_above ? rounding : agrees;
  return check;
}

template <class Function>
ExtrapolatedSlope slope_of(Function&& value, const Vector& x, Index variable) {
  constexpr std::size_t size = 12;
  constexpr double shrink = 1.6;
  std::array<std::array<double, size>, size> table{};
  Vector moved = x;
  const auto central = [&](double step) {
    moved[variable] = x[variable] + step;
    const double up = value(moved);
    moved[variable] = x[variable] - step;
    return (up - value(moved)) / (2 * step);
  };
  double step = 0.05 * std::max(1.0, std::abs(x[variable]));
  ExtrapolatedSlope best{central(step), std::numeric_limits<double>::infinity()};
  table[0][0] = best.value;
  for (std::size_t i = 1; i < size; ++i) {
    step /= shrink;
    table[0][i] = central(step);
    double factor = shrink * shrink;
    for (std::size_t j = 1; j <= i; ++j, factor *= shrink * shrink) {
      table[j][i] = (table[j - 1][i] * factor - table[j - 1][i - 1]) / (factor - 1);
      const double error =
          std::max(std::abs(table[j][i] - table[j - 1][i]), std::abs(table[j][i] - table[j - 1][i - 1]));
      if (error < best.error) best = {table[j][i], error};
    }
  }
  return best;
}

} // namespace

ExtrapolatedSlope extrapolated_slope(FunctionWorker& worker, const Vector& x, Index variable) {
  return slope_of([&](const Vector& at) { return worker.value(at); }, x, variable);
}

DerivativeCheck check_gradient(const Problem& problem, const SuppliedGradient& supplied, int points,
                               std::uint64_t seed) {
  const Matrix places = points_to_check(problem, points, seed);
  const auto worker = problem.objective().worker();
  Vector exact, exact_at;
  const Slope exactly = [&](const Vector& x, Index i) {
    if (exact_at.size() != x.size() || exact_at != x) worker->gradient(exact_at = x, exact);
    return ExtrapolatedSlope{exact[i], 0};
  };
  const Slope by_differences = [&](const Vector& x, Index i) { return extrapolated_slope(*worker, x, i); };
  const bool has_exact = problem.objective().derivatives() != Derivatives::none;
  return compared(problem, places, supplied, has_exact ? exactly : by_differences, has_exact);
}

DerivativeChecks check_derivatives(const Problem& problem, int points, std::uint64_t seed) {
  const Derivatives has = problem.objective().derivatives();
  if (has == Derivatives::none) throw ProblemError(problem.name() + " has no derivatives that could be checked");
  const Matrix places = points_to_check(problem, points, seed);
  const auto worker = problem.objective().worker();
  Vector gradient;
  const auto gradient_at = [&](const Vector& x) -> const Vector& {
    worker->gradient(x, gradient);
    return gradient;
  };
  DerivativeChecks checks;
  checks.gradient = compared(
      problem, places, gradient_at, [&](const Vector& x, Index i) { return extrapolated_slope(*worker, x, i); }, false);
  if (has != Derivatives::hessian) return checks;
  // A Hessian times a direction is the gradient of the slope along it.
  RandomStream random(seed, {"direction of a Hessian's check", problem.name()});
  Vector direction(problem.dimension());
  for (double& entry : direction) entry = random.uniform(0.5, 1.5);
  const Vector one = Vector::Ones(1);
  Matrix hessian;
  const auto product_at = [&](const Vector& x) {
    worker->weighted_hessian(x, one, hessian);
    return Vector(hessian * direction);
  };
  const auto slope_along = [&](const Vector& x) { return gradient_at(x).dot(direction); };
  checks.hessian = compared(
      problem, places, product_at, [&](const Vector& x, Index i) { return slope_of(slope_along, x, i); }, false);
  return checks;
}

} // namespace tanzen
