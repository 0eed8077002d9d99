#include "tanzen/methods/line/wolfe_step.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

using Trial = WolfeSearch::Trial;

/// The minimizer of the cubic through two values and slopes (Nocedal and Wright, 2006, equation 3.59), kept off the
/// ends; the middle where there is none.
double between(const Trial& low, const Trial& high) {
  const double width = high.step - low.step;
  const double middle = low.step + 0.5 * width;
  if (!std::isfinite(high.value) || !std::isfinite(high.slope)) return low.step + 0.1 * width;
  const double d1 = low.slope + high.slope - 3 * (low.value - high.value) / (low.step - high.step);
  const double radicand = d1 * d1 - low.slope * high.slope;
  if (!(radicand >= 0)) return middle;
  const double d2 = std::copysign(std::sqrt(radicand), width);
  const double trial = high.step - width * (high.slope + d2 - d1) / (high.slope - low.slope + 2 * d2);
  const double near = std::min(low.step + 0.1 * width, high.step - 0.1 * width);
  const double far = std::max(low.step + 0.1 * width, high.step - 0.1 * width);
  return std::isfinite(trial) ? std::clamp(trial, near, far) : middle;
}

/// Where the slope would vanish if it went on changing as between two trials, at least twice and at most ten times as
/// far.
double beyond(const Trial& before, const Trial& now, double longest) {
  const double secant = now.step - now.slope * (now.step - before.step) / (now.slope - before.slope);
  const bool is_sound = std::isfinite(secant) && secant > now.step;
  return std::min(longest, is_sound ? std::clamp(secant, 2 * now.step, 10 * now.step) : 4 * now.step);
}

} // namespace

void WolfeSettings::settings(Settings& list) {
  list.add("decrease", decrease).above(0).below(0.5).means("part of the predicted decrease that a step must reach");
  list.add("curvature", curvature).above(0).below(1).means("part of the slope that a step may leave");
}

Trial WolfeSearch::look(Evaluator& evaluate, const Vector& from, const Vector& direction, double step) {
  point = from + step * direction;
  evaluate.bounds().project(point); // rounding alone could leave them
  const auto [value, gradient] = evaluate.value_and_gradient(point);
  return {step, value, gradient.dot(direction)};
}

LineStep WolfeSearch::find(Evaluator& evaluate, const Vector& from, double value, const Vector& direction, double slope,
                           double first_step, const WolfeSettings& settings, double longest) {
  if (!(slope < 0)) return {0, value, false, 0};
  LineStep found = bracket(evaluate, from, value, direction, slope, first_step, settings, longest);
  if (patience_.is_lost_after(value, found.value)) found.step = 0;
  return found;
}

LineStep WolfeSearch::bracket(Evaluator& evaluate, const Vector& from, double value, const Vector& direction,
                              double slope, double first_step, const WolfeSettings& settings, double longest) {
  const double rounding = 4 * std::numeric_limits<double>::epsilon() * std::abs(value);
  Trial low{0, value, slope}, high{};
  bool bracketed = false;
  double step = std::min(first_step, longest);
  Index trials = 0;
  while (trials < settings.trials) {
    const Trial now = look(evaluate, from, direction, step);
    ++trials;
    const bool is_high = !std::isfinite(now.value) || std::isnan(now.slope) ||
                         now.value > value + settings.decrease * now.step * slope + rounding ||
                         (low.step > 0 && now.value >= low.value + rounding);
    if (!is_high && std::abs(now.slope) <= -settings.curvature * slope) return {now.step, now.value, true, trials};
    if (is_high) {
      high = now;
      bracketed = true;
    } else if (bracketed) {
      if (now.slope * (high.step - low.step) >= 0) high = low;
      low = now;
    } else if (now.slope >= 0) {
      high = low;
      low = now;
      bracketed = true;
    } else {
      if (now.step >= longest) return {now.step, now.value, false, trials};
      step = beyond(low, now, longest);
      low = now;
      continue;
    }
    if (std::abs(high.step - low.step) <= 1e-14 * std::max(high.step, low.step)) break;
    step = between(low, high);
  }
  if (low.step == 0) return {0, value, false, trials};
  const Trial best = look(evaluate, from, direction, low.step); // back to it: its gradient is wanted
  return {best.step, best.value, false, trials + 1};
}

double likely_step(double fall, double slope) {
  const double step = -2 * fall / slope;
  return step > 0 && std::isfinite(step) ? 1.01 * step : 1;
}

} // namespace tanzen::methods
