#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Efficient global optimization (Jones, Schonlau and Welch, 1998): a Gaussian process is fitted to all values so far,
/// and the next value is taken where it expects the largest improvement (equation 15). The process has a constant mean
/// and a Matérn covariance of smoothness 5/2 with a length for each variable, of more than 20 one for all (Rasmussen
/// and Williams, 2006, equation 4.17), fitted by the concentrated likelihood (Jones, Schonlau and Welch, equations 4 to
/// 6).
///
/// Values are modelled as they are or by the logarithm of how far they lie above the best, whichever is the likelier;
/// the improvement is looked at by its logarithm, so that it can be told where it is tiny (Ament et al., 2023, section
/// 4).
///
/// Cost: one value an iteration; order p^3 for each fit of p points and p^2 for each of some 700 places looked at.
/// Memory: 4 p^2 numbers.
struct Surrogate {
  enum class Look {
    by_variables, ///< everywhere in up to ten variables, otherwise in a trust box
    everywhere,   ///< all over the region
    trust_box     ///< in a box around the best point, which begins elsewhere where it has shrunk to nothing
  };

  Look look = Look::by_variables;
  bool noise = false;              ///< fit the share of noise, and look for improvement on the best prediction
  std::optional<Index> first = {}; ///< points of a Latin hypercube to begin with; unset: 4 n + 4
  Index most_points = 300;         ///< done when the model holds so many
  double improvement = 1e-9;       ///< done when less than this part of the values' spread is to be expected

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
