#pragma once

#include "tanzen/search/trace.hpp"

#include <optional>
#include <string>
#include <string_view>

namespace tanzen {

enum class ConvergenceOrder { linear, superlinear, quadratic };

/// How fast the gradient norm of a run went to zero in its last iterations, as far as they can tell (Nocedal and
/// Wright, 2006, appendix A.2: Q-convergence).
struct Convergence {
  ConvergenceOrder order = ConvergenceOrder::linear;
  double rate = 0;     ///< linear: what each iteration leaves of the norm; otherwise what the last one left
  double exponent = 1; ///< quadratic: the slope of log next against log now, over `iterations`
  int iterations = 0;  ///< that the estimate rests on
};

/// None where the trace has no gradient norms, thinned rows at its end, or too little regularity to support an order:
/// linear needs eight iterations whose first and second half agree, superlinear six with ever smaller parts left,
/// quadratic four with the exponent at least 1.7.
[[nodiscard]] std::optional<Convergence> convergence_of(const Trace& trace);

[[nodiscard]] std::string_view order_word(ConvergenceOrder order);
/// `linear, each iteration leaves 0.7 of the gradient norm`.
[[nodiscard]] std::string to_text(const Convergence& convergence);

/// What a path does, at a glance.
enum class PathCharacter {
  goes_home, ///< converged, or the gradient norm has fallen by eight decades
  leaves,    ///< the value ends higher than it began
  flips,     ///< most steps turn back on the one before
  crawls,    ///< each iteration leaves more than 0.9 of the way
  unclear,
};

/// Needs the points for all but the first two.
[[nodiscard]] PathCharacter path_character(const Trace& trace, bool converged, double sign);
[[nodiscard]] std::string_view path_word(PathCharacter character);

} // namespace tanzen
