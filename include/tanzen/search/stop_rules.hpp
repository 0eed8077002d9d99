#pragma once

#include <cstdint>
#include <optional>

namespace tanzen {

/// When a run stops. What is unset does not stop it.
struct StopRules {
  /// Unset there is no limit, but that of 100,000 in a row that ask for no value.
  std::optional<std::int64_t> iterations = {};
  /// Values of the objective, those for difference gradients included; kept exactly, even inside an iteration.
  std::optional<std::int64_t> evaluations = 1'000'000;
  std::optional<double> seconds = {};
  /// A value to reach, in the problem's sense.
  std::optional<double> target = {};
  /// How near to the best value known; needs a problem that knows one.
  std::optional<double> gap = {};
  /// On the relative gradient, and on the KKT residual of a feasible point, for methods that know them. Of a method
  /// that tells the gradient's norm alone, on the most that the relative gradient can be.
  std::optional<double> gradient_tolerance = 1e-8;
  /// On the norm of the projected gradient, in its own units.
  std::optional<double> gradient_norm = {};
  /// On the step of every variable, relative to its size, in each of the last `window` iterations.
  std::optional<double> step_tolerance = {};
  /// On the spread of the values of the last `window` iterations, relative to the value's size. The last step must
  /// also be below the square root of it, so that jumping between two points of one value is no convergence.
  std::optional<double> value_tolerance = {};
  std::int64_t window = 10;
  /// The run has diverged when the value lies above the start's by this factor, relative to 1 + |start's|,
  /// after rising in each of the last five iterations, or when the point is no longer finite.
  double divergence = 1e10;
  /// How large a violation still counts as feasible, in the units that constraints are written in.
  double feasibility = 1e-6;
  /// Whether an evaluation that breaks down ends the run; otherwise it is counted and the run goes on.
  bool stop_on_broken = false;
};

/// Which gradients a run uses.
enum class DerivativeMode {
  automatic, ///< exact where there are any, otherwise central differences
  exact,
  forward, ///< forward differences: n more values for a gradient
  central, ///< central differences: 2 n values for a gradient
};

} // namespace tanzen
