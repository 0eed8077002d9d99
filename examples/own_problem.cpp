// Three ways to write a problem down: a formula, a function that is traced, and a black box that is only called.
// The studio wants a kiln chamber of 0.75 cubic metres that loses as little heat as possible.
#include <tanzen/tanzen.hpp>

using namespace tanzen;

namespace {

/// Stands for a simulation that nobody can look into.
double measured_loss(const Vector& size) {
  const double width = size[0], depth = size[1];
  const double height = 0.75 / (width * depth);
  return 0.9 * 2 * (width * height + depth * height + width * depth) + 2.4 * width * height;
}

void report(const Problem& chamber, const Method& by, DerivativeMode derivative = DerivativeMode::automatic) {
  const Outcome outcome =
      run(chamber, by, {.start = Coordinates{1, 1}, .stop = {.gradient_tolerance = 1e-6}, .derivative = derivative});
  fmt::print("{} by {}\n{}\n", chamber.name(), by.name(), outcome);
}

} // namespace

int main() {
  const Problem formula =
      Problem::from_formula("1.8*(0.75/depth + 0.75/width + width*depth) + 2.4*0.75/depth", {"width", "depth"})
          .named("formula")
          .bounds({0.3, 0.3}, {2.5, 2.5});

  const Problem traced = Problem::from_function(2,
                                                [](const auto& size) {
                                                  const auto height = 0.75 / (size[0] * size[1]);
                                                  const auto walls =
                                                      size[0] * height + size[1] * height + size[0] * size[1];
                                                  return 0.9 * 2 * walls + 2.4 * size[0] * height;
                                                })
                             .named("traced")
                             .bounds({0.3, 0.3}, {2.5, 2.5});

  const Problem opaque = Problem::black_box(2, measured_loss).named("opaque").bounds({0.3, 0.3}, {2.5, 2.5});

  const Method descent = method("gradient-descent", {{"rule", "backtracking"}, {"step", 0.1}});
  report(formula, descent);
  report(traced, descent);
  report(opaque, descent); // the same method: its gradients come from differences, counted as evaluations
  report(opaque, method("nelder-mead", {{"size", 0.2}}));
}
