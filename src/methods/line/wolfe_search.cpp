#include "line_rules.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

using Trial = LineSearch::Trial;

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

class WolfeSearch : public LineSearch {
 public:
  explicit WolfeSearch(const LineSettings& settings) : settings_(settings) {}

 private:
  LineStep search(const Ray& ray, double first_step) override;

  LineSettings settings_;
};

LineStep WolfeSearch::search(const Ray& ray, double step) {
  const auto [zero, value, slope] = ray.start;
  const double rounding = 4 * std::numeric_limits<double>::epsilon() * std::abs(value);
  Trial low = ray.start, high{};
  bool bracketed = false;
  Index trials = 0;
  while (trials < settings_.trials) {
    const Trial now = look(ray, step);
    ++trials;
    const bool is_high = !std::isfinite(now.value) || std::isnan(now.slope) ||
                         now.value > value + settings_.decrease * now.step * slope + rounding ||
                         (low.step > 0 && now.value >= low.value + rounding);
    if (!is_high && std::abs(now.slope) <= -settings_.curvature * slope) return {now.step, now.value, true, trials};
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
      if (now.step >= ray.longest) return {now.step, now.value, false, trials};
      step = beyond(low, now, ray.longest);
      low = now;
      continue;
    }
    if (std::abs(high.step - low.step) <= 1e-14 * std::max(high.step, low.step)) break;
    step = between(low, high);
  }
  if (low.step == 0) return {0, value, false, trials};
  const Trial best = look(ray, low.step); // back to it: its gradient is wanted
  return {best.step, best.value, false, trials + 1};
}

} // namespace

std::unique_ptr<LineSearch> wolfe_search(const LineSettings& settings) {
  return std::make_unique<WolfeSearch>(settings);
}

} // namespace tanzen::methods
