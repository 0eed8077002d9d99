#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Simulated annealing (Kirkpatrick, Gelatt and Vecchi, 1983) of continuous variables: moves one variable at a time,
/// and keeps for each a step that is adapted so that about half its moves are accepted (Corana, Marchesi, Martini and
/// Ridella, 1987, section 2). Cooling by a constant factor, linearly, with the logarithm of the level (Geman and Geman,
/// 1984) or with its inverse (Szu and Hartley, 1987). A move outside the bounds is drawn again within them.
///
/// The paper adapts the steps max(100, 5 n) times at a level. With 5, 20 and 100 rastrigin comes to 1e-4 from 6, 9 and
/// 9 of 9 starts, for medians of 7,780, 19,578 and 64,506 values: fewer suit a budget of some ten thousand values.
///
/// Cost: `rounds` times 20 n values an iteration, which is one level of temperature. Memory: 4 vectors.
struct Annealing {
  enum class Cooling { geometric, linear, logarithmic, inverse };

  Cooling cooling = Cooling::geometric;
  std::optional<double> temperature =
      {};                   ///< first; unset: the standard deviation of the values of 10 n + 10 random points
  double factor = 0.85;     ///< of geometric cooling
  Index rounds = 5;         ///< adaptations of the steps at each level; max(100, 5 n) in the paper
  Index levels = 100;       ///< of temperature; linear cooling comes to zero after them
  double tolerance = 1e-10; ///< done when the best value changes less than this, relatively, in 4 levels

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
