// The shortest use of the library: a problem, a method, a run.
#include <tanzen/tanzen.hpp>

int main() {
  using namespace tanzen;

  Problem glaze = Problem::from_function(2,
                                         [](const auto& x) { // traced once: value, gradient and Hessian
                                           return pow(1 - x[0], 2) + 5 * exp(-x[1]) + x[1];
                                         })
                      .named("glaze")
                      .region({-2, -1}, {2, 4})
                      .start({0, 0});

  Outcome outcome = run(glaze, method("gradient-descent", {{"rule", "exact"}}), {.seed = 7});
  fmt::print("{}\n", outcome);
  return outcome.converged() ? 0 : 1;
}
