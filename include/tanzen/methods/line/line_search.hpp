#pragma once

#include "tanzen/methods/line/patience.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/settings.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>
#include <string_view>

namespace tanzen::methods {

/// A step along a direction, as a line search found it.
struct LineStep {
  double step = 0;
  double value = 0;
  bool accepted = false; ///< its conditions hold
  Index trials = 0;
};

/// How a step along a descent direction is searched for.
enum class LineRule {
  wolfe,        ///< the strong Wolfe conditions, by bracketing and cubic interpolation (Nocedal and Wright, 2006,
                ///< algorithms 3.5 and 3.6)
  more_thuente, ///< the same conditions, by an interval that must close (Moré and Thuente, 1994)
  hager_zhang,  ///< the Wolfe or, near a minimum, the approximate Wolfe conditions by slopes alone (Hager and Zhang,
                ///< 2005), which the rounding of values does not stop
  exact,        ///< the first stationary point of the ray
};

/// Lists a choice of them as `line`.
Setting& add_line_rule(Settings& list, LineRule& rule);

struct LineSettings {
  LineRule rule = LineRule::wolfe;
  double decrease = 1e-4; ///< part of the predicted decrease that must come true, in (0, 1/2)
  double curvature = 0.9; ///< the slope's size left, as a part of the first one, in (decrease, 1)
  Index trials = 40;      ///< most trials a search; of the exact one 100

  /// Lists `line`, `decrease` and `curvature` of a method.
  void settings(Settings& list);
};

/// Finds a step along a descent direction by one of the rules. Values may miss the decrease by their rounding, as near
/// a minimum no computed value falls any more (Hager and Zhang, 2005, section 4).
///
/// Holds work vectors: make one for a run. Cost: one value and one gradient a trial; allocates nothing after the
/// first search.
class LineSearch {
 public:
  virtual ~LineSearch() = default;

  /// `slope` is gradient · direction; where it is not negative there is no step. The point of the step is left in
  /// `point`, its gradient in the evaluator. Where no step meets the conditions the best trial is returned, not
  /// accepted; its step is 0 where none lowered the value, or none of the last few searches lowered it beyond rounding,
  /// and then neither `point` nor the gradient means anything.
  [[nodiscard]] LineStep find(Evaluator& evaluate, const Vector& from, double value, const Vector& direction,
                              double slope, double first_step,
                              double longest = std::numeric_limits<double>::infinity());

  Vector point;

  struct Trial {
    double step = 0;
    double value = 0;
    double slope = 0;
  };

  /// The ray that is searched.
  struct Ray {
    Evaluator& evaluate;
    const Vector& from;
    const Vector& direction;
    Trial start;
    double longest;
  };

 protected:
  /// The value and slope at a step, `point` set to it; kept within the bounds, which rounding alone could leave.
  [[nodiscard]] Trial look(const Ray& ray, double step);

 private:
  [[nodiscard]] virtual LineStep search(const Ray& ray, double first_step) = 0;

  Patience patience_;
};

[[nodiscard]] std::unique_ptr<LineSearch> make_line_search(const LineSettings& settings);

/// The first step along the negative gradient where nothing is known yet, in no units: as long as the variables are
/// large, on the average, but no longer than would bring the value to zero and back (Fletcher, 1987, section 2.6, with
/// zero for the lowest value), where that is no tiny part of it.
class FirstLength {
 public:
  explicit FirstLength(const Problem& problem);
  [[nodiscard]] double operator()(double value, const Vector& gradient) const {
    constexpr double least = 1e-3;
    const double squared = gradient.squaredNorm(), longest = size_ / std::sqrt(squared);
    return std::clamp(2 * std::abs(value) / squared, least * longest, longest);
  }

 private:
  double size_; ///< of the variables, their root mean square
};

/// Why a descent method ends where its line search finds nothing lower.
inline constexpr std::string_view no_lower_value = "no step along the direction lowers the value any more";

} // namespace tanzen::methods
