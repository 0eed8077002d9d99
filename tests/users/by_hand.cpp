// Derivatives by hand, checked before they are trusted.
#include <tanzen/checking.hpp>

#include <cmath>
#include <fmt/format.h>

int main() {
  using namespace tanzen;
  const auto value = [](const Vector& x) { return std::cosh(x[0]) + x[1] * x[1] * (1 + x[0] * x[0]); };
  const auto gradient = [](const Vector& x, Vector& g) {
    g[0] = std::sinh(x[0]) + 2 * x[0] * x[1] * x[1];
    g[1] = 2 * x[1] * (1 + x[0] * x[0]);
  };
  const Problem problem = Problem::with_derivatives(2, value, gradient).region(-1, 1);
  const DerivativeChecks checks = check_derivatives(problem);
  if (checks.gradient.verdict == DerivativeCheck::Verdict::wrong_formula) return 2;
  const Outcome outcome = run(problem, method("lbfgs"), {.start = Vector::Ones(2)});
  fmt::print("{} at {}\n", outcome.value, point_text(outcome.point));
  return std::abs(outcome.value - 1) < 1e-9 ? 0 : 1;
}
