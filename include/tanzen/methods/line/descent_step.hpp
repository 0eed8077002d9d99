#pragma once

#include "tanzen/methods/line/ray_minimum.hpp"
#include "tanzen/methods/line/wolfe_step.hpp"

#include <string_view>

namespace tanzen::methods {

/// Why a descent method ends where its line search finds nothing lower.
inline constexpr std::string_view no_lower_value = "no step along the direction lowers the value any more";

/// The first step along the negative gradient where nothing is known yet: at most of length 1.
[[nodiscard]] inline double first_length(const Vector& gradient) {
  return std::min(1.0, 1 / gradient.norm());
}

/// A line search of one kind or the other: to the Wolfe conditions, or to the first stationary point of the ray.
class DescentStep {
 public:
  DescentStep(const WolfeSettings& wolfe, bool exact) : wolfe_settings_(wolfe), exact_(exact) {}

  /// As WolfeSearch: the point is left in `point`, its gradient in the evaluator.
  [[nodiscard]] LineStep find(Evaluator& evaluate, const Vector& from, double value, const Vector& direction,
                              double slope, double first_step,
                              double longest = std::numeric_limits<double>::infinity()) {
    if (!(slope < 0)) return {0, value, false, 0};
    if (!exact_) return wolfe_.find(evaluate, from, value, direction, slope, first_step, wolfe_settings_, longest);
    const RayMinimum minimum = ray_.minimize(evaluate, from, value, direction, slope, first_step, longest);
    const bool is_lower = minimum.value <= value && minimum.step > 0;
    return {is_lower ? minimum.step : 0, minimum.value, minimum.found, minimum.trials};
  }

  [[nodiscard]] Vector& point() { return exact_ ? ray_.point : wolfe_.point; }

 private:
  WolfeSettings wolfe_settings_;
  bool exact_;
  WolfeSearch wolfe_;
  RaySearch ray_;
};

} // namespace tanzen::methods
