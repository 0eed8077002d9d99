#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Search along the coordinates: in the form of Hooke and Jeeves (1961), explorations of all coordinates and pattern
/// moves in the direction in which the last ones succeeded; or the compass (Kolda, Lewis and Torczon, 2003,
/// section 1.1, algorithm 1), which goes to the first better of the 2 n neighbours. Without a better one the step is
/// halved. Steps are scaled by the region; points outside the bounds are moved onto them.
///
/// Cost: up to 2 n values an iteration, and one for a pattern move. Memory: 4 vectors.
struct PatternSearch {
  enum class Form { hooke_jeeves, compass };

  Form form = Form::hooke_jeeves;
  double step = 0.1;       ///< first step, as a part of the region's width
  double collapse = 1e-10; ///< done when the step is below this

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
