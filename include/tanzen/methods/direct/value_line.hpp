#pragma once

#include "tanzen/search/evaluator.hpp"

namespace tanzen::methods {

/// Makes the objective small along a line by values alone, within the bounds: steps downhill until the value rises,
/// or where the curvature says that it does, then parabolas through three points (Powell, 1964; Brent, 1973, chapter
/// 5). Holds work vectors: make one for a run.
class ValueLine {
 public:
  ValueLine(Evaluator& evaluate, Index n) : evaluate_(evaluate), point_(n) {}

  struct Result {
    double step = 0; ///< 0 where no lower value was found
    double value = 0;
  };

  /// What searches along a direction have told for the next one.
  struct Knowledge {
    double length = 0;    ///< the first step
    double curvature = 0; ///< the second derivative; 0 where it is not known
  };

  /// From `from`, where the value is `value`, along `direction` to both sides. Closes in to `tolerance`, relative to
  /// the step. Moves `from` and returns how far. Cost: two or three values where the curvature is known, else some 5 to
  /// 20; allocates nothing.
  Result minimize(Vector& from, double value, const Vector& direction, Knowledge& known, double tolerance);

 private:
  double value_at(const Vector& from, const Vector& direction, double step);

  Evaluator& evaluate_;
  Vector point_;
};

} // namespace tanzen::methods
