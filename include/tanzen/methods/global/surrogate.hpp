#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Efficient global optimization (Jones, Schonlau and Welch, 1998): a Gaussian process is fitted to all values so far,
/// and the next value is taken where it expects the largest improvement (equation 15). The process has a constant mean
/// and a Matérn covariance of smoothness 5/2 with a length for each variable (Rasmussen and Williams, 2006,
/// equation 4.17), fitted by the concentrated likelihood (Jones, Schonlau and Welch, equations 4 to 6).
///
/// Cost: one value an iteration; order p^3 for each fit of p points and p^2 for each of some 700 places looked at.
/// Memory: 4 p^2 numbers.
struct Surrogate {
  std::optional<Index> first = {}; ///< points of a Latin hypercube to begin with; unset: 4 n + 4
  Index most_points = 200;         ///< done when the model holds so many
  double improvement = 1e-9;       ///< done when less than this part of the values' spread is to be expected

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
