// Limits as people write them, and what they cost.
#include <tanzen/tanzen.hpp>

#include <cmath>
#include <fmt/format.h>

int main() {
  using namespace tanzen;
  const Problem kiln = Problem::from_formula("2*r*h + 1.5*r^2", {"r", "h"})
                           .named("kiln")
                           .bounds({0.1, 0.1}, {3, 3})
                           .with_constraint("capacity", "r^2*h >= 1")
                           .start({1, 1});
  const Outcome outcome = run(kiln, method("sequential-quadratic"));
  fmt::print("{}\n", outcome);
  return outcome.converged() && std::abs(kiln.constraint_values(outcome.point)[0] - 1) < 1e-5 ? 0 : 1;
}
