#pragma once

#include "tanzen/search/evaluator.hpp"

namespace tanzen::methods {

/// Makes the objective small along a line by values alone, within the bounds: steps downhill until the value rises,
/// then parabolas through three points (Brent, 1973, chapter 5). Holds work vectors: make one for a run.
class ValueLine {
 public:
  ValueLine(Evaluator& evaluate, Index n) : evaluate_(evaluate), point_(n) {}

  struct Result {
    double step = 0; ///< 0 where no lower value was found
    double value = 0;
  };

  /// From `from`, where the value is `value`, along `direction` to both sides; `first` is the first step. Closes in to
  /// `tolerance`, relative to the step. Moves `from` and returns how far. Cost: some 5 to 20 values; allocates nothing.
  Result minimize(Vector& from, double value, const Vector& direction, double first, double tolerance);

 private:
  double value_at(const Vector& from, const Vector& direction, double step);

  Evaluator& evaluate_;
  Vector point_;
};

} // namespace tanzen::methods
