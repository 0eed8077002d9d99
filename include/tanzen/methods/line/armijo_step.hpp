#pragma once

#include "tanzen/methods/line/line_search.hpp"

#include <cstddef>
#include <vector>

namespace tanzen::methods {

/// The largest of the last few values: what a non-monotone line search measures the decrease against (Grippo,
/// Lampariello and Lucidi, 1986). A memory of 1 is the last value, and the search monotone.
class ReferenceValue {
 public:
  explicit ReferenceValue(Index memory) { values_.reserve(static_cast<std::size_t>(memory)); }
  void note(double value);
  [[nodiscard]] double largest() const;

 private:
  std::vector<double> values_;
  std::size_t next_ = 0;
};

struct ArmijoSettings {
  double decrease = 1e-4; ///< part of the predicted decrease that must come true (Armijo, 1966)
  double shrink = 0.5;    ///< a trial's step divided by the one before, at most
  Index trials = 60;      ///< most trials a search
};

/// Shortens a step until the value has fallen enough below a reference: by `shrink`, or further where the parabola
/// through what is known says so (Nocedal and Wright, 2006, section 3.5). Within bounds the trial is projected onto
/// them and the decrease is measured along the projected step (Bertsekas, 1976).
///
/// Holds a work vector. Cost: one value a trial; allocates nothing after the first.
class ArmijoSearch {
 public:
  /// Requires gradient · direction < 0. The point of the step is left in `point`; step 0 where none lowers the value.
  [[nodiscard]] LineStep find(Evaluator& evaluate, const Vector& from, double reference, const Vector& gradient,
                              const Vector& direction, double first_step, const ArmijoSettings& settings = {});

  Vector point;
};

} // namespace tanzen::methods
