#include "tanzen/methods/direct/value_line.hpp"

#include "tanzen/methods/line/bracket.hpp"
#include "tanzen/methods/line/ray_minimum.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace tanzen::methods {

double ValueLine::value_at(const Vector& from, const Vector& direction, double step) {
  point_ = from + step * direction;
  evaluate_.bounds().project(point_); // rounding alone could leave them
  return evaluate_(point_);
}

namespace {

/// Where two values and the second derivative put the minimum (Powell, 1964, section 7); nothing where they tell none.
std::optional<double> expected_minimum(const LinePoint& a, const LinePoint& b, double curvature) {
  if (!(curvature > 0)) return std::nullopt;
  const double slope = (b.value - a.value) / (b.x - a.x) - 0.5 * curvature * (b.x - a.x);
  const double there = a.x - slope / curvature;
  return std::isfinite(there) ? std::optional(there) : std::nullopt;
}

} // namespace

ValueLine::Result ValueLine::minimize(Vector& from, double value, const Vector& direction, Knowledge& known,
                                      double tolerance) {
  constexpr int most_steps = 60, most_parabolas = 40;
  const double enough = std::min(0.03, 3 * tolerance); // of what the line has brought: less is not worth a value
  const double forth = longest_feasible_step(evaluate_.bounds(), from, direction);
  point_ = -direction;
  const double back = -longest_feasible_step(evaluate_.bounds(), from, point_);
  const auto within = [&](double step) { return std::clamp(step, back, forth); };
  const auto look = [&](double step) { return LinePoint{step, value_at(from, direction, step)}; };

  std::array<LinePoint, 3> points{LinePoint{0, value}, {within(known.length), 0}, {}};
  if (points[1].x == 0) points[1].x = within(-known.length);
  if (points[1].x == 0) return {0, value};
  points[1] = look(points[1].x);
  // Downhill from the lower of two, by the golden ratio further each time.
  const auto onward = [&](const LinePoint& low, const LinePoint& high) {
    return within(low.x + std::numbers::phi * (low.x - high.x));
  };
  const double near = tolerance * std::abs(known.length);
  const auto [high, low] = points[1].value < value ? std::pair(points[0], points[1]) : std::pair(points[1], points[0]);
  double next = onward(low, high);
  LinePoint best = low;
  bool is_there = false; // the lower one is where the minimum is expected
  if (const auto expected = expected_minimum(low, high, known.curvature)) {
    const double away = std::abs(*expected - low.x);
    is_there = away <= near;
    if (std::abs(*expected - high.x) > near && away < 4 * std::abs(high.x - low.x)) next = within(*expected);
  }
  for (int k = 0; k < most_steps && !is_there; ++k) {
    points[2] = look(next);
    std::ranges::sort(points, {}, &LinePoint::x);
    const auto lowest = std::ranges::min_element(points, {}, &LinePoint::value) - points.begin();
    best = points[static_cast<std::size_t>(lowest)];
    if (lowest == 1) break;
    if (lowest == 2) std::swap(points[0], points[2]);
    next = onward(points[0], points[1]); // the third is the farthest, and the next one takes its place
    if (next == best.x) break;
  }
  if (!is_there && best.x == points[1].x && std::isfinite(best.value)) {
    ParabolicBracket parabolas(points[0], points[1], points[2], tolerance, near);
    for (int k = 0; k < most_parabolas && !parabolas.is_closed(); ++k) {
      const double step = parabolas.propose();
      const double gain = 0.5 * parabolas.curvature() * std::pow(step - parabolas.best().x, 2);
      if (parabolas.hardly_moves() || gain <= enough * (value - parabolas.best().value)) break;
      parabolas.note(step, value_at(from, direction, step));
    }
    best = parabolas.best();
    known.curvature = parabolas.curvature();
  }
  if (!(best.value < value)) return {0, value};
  from += best.x * direction;
  evaluate_.bounds().project(from);
  return {best.x, best.value};
}

} // namespace tanzen::methods
