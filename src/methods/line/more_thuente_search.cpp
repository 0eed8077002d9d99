#include "line_rules.hpp"
#include "tanzen/numeric/constants.hpp"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace tanzen::methods {
namespace {

using Trial = LineSearch::Trial;

/// The minimizer of the cubic through two values and slopes (section 4); NaN where it has none.
double cubic(const Trial& l, const Trial& t) {
  const double theta = 3 * (l.value - t.value) / (t.step - l.step) + l.slope + t.slope;
  const double size = std::max({std::abs(theta), std::abs(l.slope), std::abs(t.slope)});
  const double radicand = (theta / size) * (theta / size) - l.slope / size * (t.slope / size);
  const double gamma = std::copysign(size * std::sqrt(radicand), t.step - l.step);
  return l.step + (gamma - l.slope + theta) / (2 * gamma - l.slope + t.slope) * (t.step - l.step);
}

/// The minimizer of the from_parabola through a value, its slope and another value.
double from_parabola(const Trial& l, const Trial& t) {
  return l.step + l.slope / ((l.value - t.value) / (t.step - l.step) + l.slope) / 2 * (t.step - l.step);
}

/// Where the slope would vanish on the straight line through two.
double from_secant(const Trial& l, const Trial& t) {
  return t.step + t.slope / (t.slope - l.slope) * (l.step - t.step);
}

/// Whether `a` lies nearer to `to` than `b` does.
bool is_nearer(double a, double b, double to) {
  return std::abs(a - to) < std::abs(b - to);
}

/// The search of Moré and Thuente (1994): an interval that holds steps with sufficient decrease and a small slope is
/// narrowed by cubics, parabolas and secants, first of the values less the decrease asked for, then of the values
/// themselves (sections 2 to 4; equations and cases are theirs).
class MoreThuenteSearch : public LineSearch {
 public:
  explicit MoreThuenteSearch(const LineSettings& settings) : settings_(settings) {}

 private:
  /// The interval of uncertainty: its best end, the other one, and whether both are known to hold a minimum.
  struct Interval {
    Trial l, u;
    bool is_bracketed = false;
    [[nodiscard]] double width() const { return std::abs(u.step - l.step); }
  };

  LineStep search(const Ray& ray, double step) override;
  static double next_trial(const Interval& now, const Trial& t, double least, double most);
  static void narrow(Interval& now, const Trial& t);

  LineSettings settings_;
};

/// The next trial by the four cases of section 4.
double MoreThuenteSearch::next_trial(const Interval& now, const Trial& t, double least, double most) {
  const auto& [l, u, is_bracketed] = now;
  if (t.value > l.value) { // case 1: higher; nearer to the cubic's minimizer where that is nearer to the best end
    const double c = cubic(l, t), q = from_parabola(l, t);
    return is_nearer(c, q, l.step) ? c : c + (q - c) / 2;
  }
  const double s = from_secant(l, t);
  if (t.slope * l.slope < 0) { // case 2: lower, with slopes of two signs
    const double c = cubic(t, l);
    return is_nearer(c, s, t.step) ? s : c;
  }
  const double end = t.step > l.step ? most : least;
  if (std::abs(t.slope) <= std::abs(l.slope)) { // case 3: lower, one sign, less steep; a cubic may have no minimizer
    const double through = cubic(t, l);
    const double c = (through - t.step) * (t.step - l.step) > 0 ? through : end;
    if (!is_bracketed) return std::clamp(is_nearer(c, s, t.step) ? s : c, least, most);
    const double picked = is_nearer(c, s, t.step) ? c : s, furthest = t.step + 0.66 * (u.step - t.step);
    return t.step > l.step ? std::min(furthest, picked) : std::max(furthest, picked);
  }
  if (is_bracketed) return cubic(t, u); // case 4: lower, one sign, steeper
  return end;
}

/// The updating algorithm of section 2.
void MoreThuenteSearch::narrow(Interval& now, const Trial& t) {
  if (t.value > now.l.value) {
    now.u = t;
    now.is_bracketed = true;
    return;
  }
  if (t.slope * (now.l.step - t.step) < 0) {
    now.u = now.l;
    now.is_bracketed = true;
  }
  now.l = t;
}

LineStep MoreThuenteSearch::search(const Ray& ray, double step) {
  const auto [zero, value, slope] = ray.start;
  const double decrease = settings_.decrease;
  const double rounding = 4 * std::numeric_limits<double>::epsilon() * std::abs(value);
  Interval now{ray.start, ray.start};
  bool is_first_stage = true;
  double least = 0, most = 5 * step, longest = ray.longest, width = infinity, width_before = infinity;
  Index trials = 0;
  while (trials < settings_.trials) {
    const Trial t = look(ray, step);
    ++trials;
    if (!std::isfinite(t.value) || std::isnan(t.slope)) { // outside: no further than here
      longest = step;
      step = now.l.step + 0.1 * (step - now.l.step);
      continue;
    }
    const double enough = value + decrease * t.step * slope;
    if (t.value <= enough + rounding && std::abs(t.slope) <= -settings_.curvature * slope)
      return {t.step, t.value, true, trials};
    if (t.step >= ray.longest && t.value <= enough && t.slope <= decrease * slope)
      return {t.step, t.value, false, trials};
    if (t.value <= enough && t.slope >= 0) is_first_stage = false;
    if (is_first_stage && t.value <= now.l.value && t.value > enough) { // by values less the decrease (equation 2.1)
      const auto less = [&](const Trial& at, double sign) -> Trial {
        return {at.step, at.value - sign * decrease * at.step * slope, at.slope - sign * decrease * slope};
      };
      Interval shifted{less(now.l, 1), less(now.u, 1), now.is_bracketed};
      step = next_trial(shifted, less(t, 1), least, most);
      narrow(shifted, less(t, 1));
      now = {less(shifted.l, -1), less(shifted.u, -1), shifted.is_bracketed};
    } else {
      step = next_trial(now, t, least, most);
      narrow(now, t);
    }
    if (now.is_bracketed) {
      if (now.width() >= 0.66 * width_before) step = 0.5 * (now.l.step + now.u.step);
      width_before = width;
      width = now.width();
      std::tie(least, most) = std::minmax(now.l.step, now.u.step);
      if (!(step > least && step < most) || width <= 1e-14 * most) break;
    } else {
      step = std::min(step, longest);
      least = step + 1.1 * (step - now.l.step);
      most = step + 4 * (step - now.l.step);
    }
  }
  if (now.l.step == 0) return {0, value, false, trials};
  const Trial best = look(ray, now.l.step); // back to it: its gradient is wanted
  return {best.step, best.value, false, trials + 1};
}

} // namespace

std::unique_ptr<LineSearch> more_thuente_search(const LineSettings& settings) {
  return std::make_unique<MoreThuenteSearch>(settings);
}

} // namespace tanzen::methods
