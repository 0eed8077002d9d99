#pragma once

#include "tanzen/methods/line/patience.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/settings.hpp"

#include <limits>

namespace tanzen::methods {

/// A step along a direction, as a line search found it.
struct LineStep {
  double step = 0;
  double value = 0;
  bool accepted = false; ///< both conditions hold
  Index trials = 0;
};

struct WolfeSettings {
  double decrease = 1e-4; ///< part of the predicted decrease that must come true, in (0, 1/2)
  double curvature = 0.9; ///< the slope's size left, as a part of the first one, in (decrease, 1)
  Index trials = 40;      ///< most trials a search

  /// Lists `decrease` and `curvature` of a method.
  void settings(Settings& list);
};

/// Finds a step that meets the strong Wolfe conditions along a descent direction by bracketing and cubic
/// interpolation (Nocedal and Wright, 2006, algorithms 3.5 and 3.6). The decrease may miss by the rounding of the
/// value, as near a minimum no computed value falls any more (Hager and Zhang, 2005, section 4).
///
/// Holds a work vector: make one for a run. Cost: one value and one gradient a trial; allocates nothing after the
/// first.
class WolfeSearch {
 public:
  /// `slope` is gradient · direction; where it is not negative there is no step. The point of the step is left in
  /// `point`, its gradient in the evaluator. Where no step meets both conditions the best trial is returned, not
  /// accepted; its step is 0 where none lowered the value, or none of the last few searches lowered it beyond rounding,
  /// and then neither `point` nor the gradient means anything.
  [[nodiscard]] LineStep find(Evaluator& evaluate, const Vector& from, double value, const Vector& direction,
                              double slope, double first_step, const WolfeSettings& settings = {},
                              double longest = std::numeric_limits<double>::infinity());

  Vector point;

  struct Trial {
    double step = 0;
    double value = 0;
    double slope = 0;
  };

 private:
  [[nodiscard]] LineStep bracket(Evaluator& evaluate, const Vector& from, double value, const Vector& direction,
                                 double slope, double first_step, const WolfeSettings& settings, double longest);
  [[nodiscard]] Trial look(Evaluator& evaluate, const Vector& from, const Vector& direction, double step);

  Patience patience_;
};

/// The first trial where the last step lowered the value by `fall`: as if this one lowered it alike (Nocedal and
/// Wright, 2006, equation 3.60).
[[nodiscard]] double likely_step(double fall, double slope);

} // namespace tanzen::methods
