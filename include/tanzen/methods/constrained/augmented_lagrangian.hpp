#pragma once

#include "tanzen/methods/global/local_search.hpp"

#include <optional>

namespace tanzen::methods {

/// The method of multipliers for equalities and inequalities: a local method minimizes the augmented Lagrangian within
/// the bounds, then the multipliers move by the violation; where that does not fall fast enough the penalty grows
/// (Conn, Gould and Toint, 1991, algorithm 1; Birgin and Martínez, 2014, algorithm 4.1). Rows lower <= c(x) <= upper
/// stay as they are: their slacks are minimized out.
///
/// Cost of an iteration: what the local method spends, one evaluation, and with derivatives one gradient;
/// at the start one Jacobian, by which steep rows are weighed.
struct AugmentedLagrangian {
  LocalChoice local;
  std::optional<double> penalty = {}; ///< the first one; unset: so that the first violation weighs as much as the value
  double growth = 10;                 ///< of the penalty, where the violation does not fall
  double fall = 0.5;                  ///< part of the last violation that the next must come below
  double accuracy = 1e-9;             ///< of the local searches, once near

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
