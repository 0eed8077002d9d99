// Several objectives of one's own in C++: how fast to heat a glaze firing and how long to hold it, gas against broken
// pots. A population looks for the front, a local method for twenty points of it to all digits, and one firing is
// chosen where the front bulges most.
#include <tanzen/analysis/preference.hpp>
#include <tanzen/tanzen.hpp>

using namespace tanzen;

namespace {

/// Degrees a minute and minutes; both objectives are to be small.
Problem glaze_firing() {
  return Problem::from_function(2, [](const auto& x) { return 60 / x[0] + 0.35 * x[1]; })
      .with_first_objective({.name = "gas"})
      .with_objectives({{.name = "breakage"}},
                       Expression::traced(2, [](const auto& x) { return 0.4 * pow(x[0], 2) + 900 / (x[1] + 10); }))
      .named("glaze-firing")
      .variables({{"ramp", "degrees a minute"}, {"soak", "min"}})
      .bounds({1, 5}, {10, 90});
}

} // namespace

int main() {
  const Problem firing = glaze_firing();
  for (const Method& looked : {method("nondominated-sorting"), method("chebyshev", {{"points", 20}})}) {
    const Outcome outcome = run(firing, looked, {.stop = {.evaluations = 4000}});
    fmt::print("{}\n{}{}\n", looked.label(), outcome, to_text(outcome, choose(outcome, {})));
  }
}
