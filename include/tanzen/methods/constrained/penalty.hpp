#pragma once

#include "tanzen/methods/global/local_search.hpp"

namespace tanzen::methods {

/// Penalties alone, to show what they cost: a local method minimizes the value plus what broken constraints are
/// charged, and the price grows until they hold (Courant, 1943; Fiacco and McCormick, 1968; Nocedal and Wright, 2006,
/// frameworks 17.1 and 17.2). The quadratic one meets the constraints only in the limit, and each local search is worse
/// conditioned than the last; the absolute one is exact once its price is above the multipliers, and has kinks.
///
/// Cost of an iteration: what the local method spends, and one evaluation.
struct Penalty {
  enum class Kind { quadratic, absolute };
  LocalChoice local;
  Kind kind = Kind::quadratic;
  double price = 1;       ///< the first one
  double growth = 10;     ///< of the price, where constraints are broken
  double accuracy = 1e-9; ///< of the local searches, once near

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
