#include "tanzen/methods/line/ray_minimum.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <limits>

namespace tanzen::methods {
namespace {

constexpr Index most_trials = 100;
constexpr double epsilon = std::numeric_limits<double>::epsilon();

/// A step between two: in the middle of their logarithms where they are of very different sizes.
double inside(double low, double high) {
  if (low == 0) return 0.1 * high;
  return high > 100 * low ? std::sqrt(low) * std::sqrt(high) : 0.5 * (low + high);
}

} // namespace

RaySearch::Trial RaySearch::look(Evaluator& evaluate, const Vector& from, const Vector& direction, double step) {
  point = from + step * direction;
  evaluate.bounds().project(point); // rounding alone could leave them
  const auto [value, slope_vector] = evaluate.value_and_gradient(point);
  gradient = slope_vector;
  return {step, value, gradient.dot(direction)};
}

RayMinimum RaySearch::minimize(Evaluator& evaluate, const Vector& from, double value, const Vector& direction,
                               double slope, double first_step, double longest) {
  assert(slope < 0);
  const double flat = 1e-10 * std::abs(slope); // then the step is about as exact, relative to its length
  Trial low{0, value, slope};
  Trial high{longest, 0, 0};
  bool bracketed = false;
  double low_weight = 1, high_weight = 1; // Illinois: an end that stays twice running counts half
  enum class End { none, near, far } moved = End::none;
  double width = std::numeric_limits<double>::infinity(); // of the bracket when it was last halved
  int slow_trials = 0;
  double step = std::min(first_step, longest);

  for (Index trials = 1; trials <= most_trials; ++trials) {
    const Trial now = look(evaluate, from, direction, step);
    if (std::abs(now.slope) <= flat) return {now.step, now.value, true, trials};
    const bool is_beyond =
        !std::isfinite(now.value) || !(now.slope < 0) || now.value > low.value + std::abs(low.value) * epsilon;
    if (is_beyond) {
      if (moved == End::far) low_weight /= 2;
      high_weight = 1;
      high = now;
      bracketed = true;
    } else {
      if (!bracketed && now.step >= longest) return {now.step, now.value, false, trials};
      if (moved == End::near) high_weight /= 2;
      low_weight = 1;
    }
    moved = !bracketed ? End::none : is_beyond ? End::far : End::near;
    if (!is_beyond && !bracketed) {
      // Outside a bracket: on to where the slope would vanish, at most a hundred times as far.
      const double secant = now.step - now.slope * (now.step - low.step) / (now.slope - low.slope);
      const bool is_sound = std::isfinite(secant) && secant > now.step;
      const double further = is_sound ? std::clamp(secant, 1.01 * now.step, 100 * now.step) : 4 * now.step;
      low = now;
      step = std::min(further, longest);
      continue;
    }
    if (!is_beyond) low = now;
    slow_trials = high.step - low.step > 0.5 * width ? slow_trials + 1 : 0;
    if (slow_trials == 0) width = high.step - low.step;
    if (high.step - low.step <= 4 * epsilon * high.step) return {now.step, now.value, true, trials};
    const bool has_slopes = std::isfinite(high.value) && high.slope > 0;
    const double low_slope = low_weight * low.slope, high_slope = high_weight * high.slope;
    const double secant = (low.step * high_slope - high.step * low_slope) / (high_slope - low_slope);
    const bool is_inside = has_slopes && secant > low.step && secant < high.step;
    const bool is_stuck = slow_trials >= 2; // a secant between very unequal slopes hardly moves
    if (is_stuck) slow_trials = 0;
    step = is_inside && !is_stuck ? secant : inside(low.step, high.step);
  }
  return {step, value, false, most_trials};
}

double longest_feasible_step(const Bounds& bounds, const Vector& from, const Vector& direction) {
  double longest = std::numeric_limits<double>::infinity();
  for (Index i = 0; i < from.size(); ++i) {
    if (direction[i] == 0) continue;
    const double limit = direction[i] > 0 ? bounds.upper()[i] : bounds.lower()[i];
    longest = std::min(longest, std::max(0.0, (limit - from[i]) / direction[i]));
  }
  return longest;
}

void stay_feasible(const Bounds& bounds, const Vector& from, Vector& direction) {
  for (Index i = 0; i < from.size(); ++i) {
    const bool leaves =
        (direction[i] < 0 && from[i] <= bounds.lower()[i]) || (direction[i] > 0 && from[i] >= bounds.upper()[i]);
    if (leaves) direction[i] = 0;
  }
}

} // namespace tanzen::methods
