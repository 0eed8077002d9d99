#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Minimizes along one coordinate after another, exactly (Wright, 2015, algorithm 1; Nutini et al., 2015, for the
/// greedy order).
///
/// Cost of an iteration: in cyclic order a line search for each variable, in greedy order one, each two or more values
/// and gradients.
struct CoordinateDescent {
  enum class Order {
    cyclic, ///< all coordinates, one after another, are one iteration
    greedy, ///< the coordinate with the steepest slope
  };
  Order order = Order::cyclic;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
