#include "tanzen/methods/direct/value_line.hpp"

#include "tanzen/methods/line/bracket.hpp"
#include "tanzen/methods/line/ray_minimum.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace tanzen::methods {

double ValueLine::value_at(const Vector& from, const Vector& direction, double step) {
  point_ = from + step * direction;
  evaluate_.bounds().project(point_); // rounding alone could leave them
  return evaluate_(point_);
}

ValueLine::Result ValueLine::minimize(Vector& from, double value, const Vector& direction, double first,
                                      double tolerance) {
  constexpr int most_steps = 60, most_parabolas = 40;
  const double forth = longest_feasible_step(evaluate_.bounds(), from, direction);
  point_ = -direction;
  const double back = -longest_feasible_step(evaluate_.bounds(), from, point_);
  const auto within = [&](double step) { return std::clamp(step, back, forth); };

  LinePoint before{0, value}, middle{within(first), 0};
  if (middle.x == 0) middle.x = within(-first);
  if (middle.x == 0) return {0, value};
  middle.value = value_at(from, direction, middle.x);
  if (!(middle.value < before.value)) std::swap(before, middle);
  LinePoint after{within(middle.x + std::numbers::phi * (middle.x - before.x)), 0};
  bool is_closed = false; // the value rises behind the middle, or the bound is there
  for (int k = 0; k < most_steps && !is_closed; ++k) {
    if (after.x == middle.x) break;
    after.value = value_at(from, direction, after.x);
    is_closed = !(after.value < middle.value);
    if (is_closed) break;
    before = middle;
    middle = after;
    after.x = within(middle.x + std::numbers::phi * (middle.x - before.x));
  }
  if (is_closed && std::isfinite(middle.value)) {
    const Bracket bracket{std::min(before.x, after.x), std::max(before.x, after.x), middle};
    ParabolicBracket parabolas(bracket, tolerance, tolerance * std::abs(first));
    for (int k = 0; k < most_parabolas && !parabolas.is_closed(); ++k) {
      const double step = parabolas.propose();
      parabolas.note(step, value_at(from, direction, step));
    }
    middle = parabolas.best();
  }
  if (!(middle.value < value)) return {0, value};
  from += middle.x * direction;
  evaluate_.bounds().project(from);
  return {middle.x, middle.value};
}

} // namespace tanzen::methods
