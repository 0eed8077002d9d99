#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Dividing rectangles (Jones, Perttunen and Stuckman, 1993, section 4): divides the region into boxes with a value at
/// each centre, and in each iteration all boxes that could hold the least value for some Lipschitz constant. The
/// locally biased form (Gablonsky and Kelley, 2001) measures a box by its longest side and divides one box of each size
/// only.
///
/// Cost: 2 values for each side of a box divided. Memory: all boxes.
struct DividingRectangles {
  bool biased = false;        ///< the locally biased form
  double epsilon = 1e-4;      ///< a box must promise this much below the best value, relatively
  double collapse = 1e-7;     ///< done when the best box is narrower than this part of the region on every side
  Index most_boxes = 500'000; ///< done when there are so many

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
