// Three ways to write a problem down: a formula, a function that is traced, and a black box that is only called.
// The studio wants a round kiln of 0.75 cubic metres that loses as little heat as possible: its wall is as high as the
// capacity asks for.
#include <tanzen/tanzen.hpp>

#include <numbers>

using namespace tanzen;

namespace {

/// Stands for a simulation that nobody can look into.
double measured_loss(const Vector& size) {
  const double radius = size[0], share = size[1]; // of the capacity under the dome
  const double dome = share * 0.75 / (2.0 / 3.0 * std::numbers::pi * radius * radius);
  const double wall = (1 - share) * 0.75 / (std::numbers::pi * radius * radius);
  return 0.9 * 2 * std::numbers::pi * radius * wall + 1.4 * 2 * std::numbers::pi * radius * dome +
         1.9 * std::numbers::pi * radius * radius + 8 * (share - 0.4) * (share - 0.4);
}

void report(const Problem& kiln, const Method& by, DerivativeMode derivative = DerivativeMode::automatic) {
  const Outcome outcome =
      run(kiln, by, {.start = Coordinates{0.7, 0.5}, .stop = {.gradient_tolerance = 1e-6}, .derivative = derivative});
  fmt::print("{} by {}\n{}\n", kiln.name(), by.name(), outcome);
}

} // namespace

int main() {
  const Problem formula =
      Problem::from_formula("1.35*(1 - share)/radius + 3.15*share/radius + 1.9*pi*radius^2 + 8*(share - 0.4)^2",
                            {"radius", "share"})
          .named("formula")
          .bounds({0.2, 0}, {1.5, 1});

  const Problem traced = Problem::from_function(2,
                                                [](const auto& size) {
                                                  const auto spread = 1.35 * (1 - size[1]) + 3.15 * size[1];
                                                  const auto floor = 1.9 * std::numbers::pi * pow(size[0], 2);
                                                  return spread / size[0] + floor + 8 * pow(size[1] - 0.4, 2);
                                                })
                             .named("traced")
                             .bounds({0.2, 0}, {1.5, 1});

  const Problem opaque = Problem::black_box(2, measured_loss).named("opaque").bounds({0.2, 0}, {1.5, 1});

  const Method descent = method("gradient-descent", {{"rule", "backtracking"}, {"step", 0.1}});
  report(formula, descent);
  report(traced, descent);
  report(opaque, descent); // the same method: its gradients come from differences, counted as evaluations
  report(opaque, method("nelder-mead", {{"size", 0.2}}));
}
