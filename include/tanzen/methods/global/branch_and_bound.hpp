#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Branch and bound by interval arithmetic (Hansen and Walster, 2004, chapter 12; Moore, Kearfott and Cloud, 2009,
/// section 11.4): the region is cut into boxes, and a box is thrown away only where a proof says that no global
/// minimizer lies in it: its values are all above one that was found, the function rises or falls along a variable all
/// over it, it is concave along one, or an interval Newton step leaves nothing of it. Where it ends `proved`, the best
/// value is enclosed and every global minimizer lies in one of the boxes that are left.
///
/// Values are bounded by the expression itself, by its mean-value form, by its Taylor form of second order, and by the
/// tangent of a convex function below it (Adjiman, Dallwig, Floudas and Neumaier, 1998); under constraints by those of
/// the Lagrangian. Newton steps are those of Hansen and Sengupta (1981), preconditioned. Faces of the region are boxes
/// of their own. What is proved is of the expression in real numbers, its constants the doubles that they are; see
/// `enclosure.hpp` for what is assumed of the arithmetic.
///
/// Cost: one value at the middle of a box that promises a lower one, and one where Newton steps from there end; under
/// constraints sequential-quadratic runs from the middles of boxes, ever more seldom. Memory: the boxes that wait.
struct BranchAndBound {
  double tolerance = 1e-8;      ///< width of the enclosure of the value, relative to it
  double width = 1e-6;          ///< of boxes that are not cut any more, relative to the variables
  Index most_boxes = 2'000'000; ///< that may wait
  Index at_once = 100;          ///< boxes an iteration
  Index record = 0;             ///< parts without a minimizer that are told of, for a picture

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
