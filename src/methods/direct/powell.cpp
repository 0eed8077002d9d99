#include "tanzen/methods/direct/powell.hpp"

#include "tanzen/methods/direct/value_line.hpp"
#include "tanzen/search/relative_gradient.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

MethodCard Powell::card() {
  return {.title = "conjugate directions from line searches",
          .family = "derivative-free",
          .source = "Powell, 1964; line searches: Brent, 1973",
          .limits = "lines end at them",
          .summary = "Smooth functions of a few variables without derivatives; on a quadratic it ends after about n "
                     "iterations.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void Powell::settings(Settings& list) {
  list.add("step", step).positive().means("first step of a line search, as a part of the region's width");
  list.add("tolerance", tolerance).above(0).below(1).means("of the line searches, relative to the step");
  list.add("collapse", collapse)
      .positive()
      .means("done when an iteration moves less than this, relative to each variable's size");
}

Search Powell::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Matrix coordinates = evaluate.problem().sampling_box().width().asDiagonal();
  Matrix directions = coordinates;
  ValueLine line(evaluate, n);
  Vector x = start.point, begin(n), direction(n), extrapolated(n);
  std::vector<ValueLine::Knowledge> known(static_cast<std::size_t>(n), {.length = step});
  double value = start.value;
  int idle = 0;
  bool is_fresh = true; // the directions are the coordinates
  for (;;) {
    begin = x;
    const double begin_value = value;
    double largest_fall = 0;
    Index largest = 0;
    for (Index i = 0; i < n; ++i) {
      direction = directions.col(i);
      auto& along = known[static_cast<std::size_t>(i)];
      const auto moved = line.minimize(x, value, direction, along, tolerance);
      // The next search along it begins with a step of the length that this one took.
      along.length = moved.step != 0 ? std::abs(moved.step) : 0.1 * std::abs(along.length);
      if (value - moved.value > largest_fall) {
        largest_fall = value - moved.value;
        largest = i;
      }
      value = moved.value;
    }
    direction = x - begin;
    const double length = direction.norm();
    if (length > 0) {
      extrapolated = x + direction;
      evaluate.bounds().project(extrapolated);
      const double beyond = evaluate(extrapolated);
      const double a = begin_value - value - largest_fall, b = begin_value - beyond;
      const bool is_new = beyond < begin_value && 2 * (begin_value - 2 * value + beyond) * a * a < largest_fall * b * b;
      if (is_new) {
        // Three values along it are known already.
        const double curvature = begin_value - 2 * value + beyond;
        ValueLine::Knowledge along{.length = 1, .curvature = std::max(0.0, curvature)};
        if (curvature > 0) along.length = std::clamp(0.5 * (begin_value - beyond) / curvature, -10.0, 10.0);
        const auto moved = line.minimize(x, value, direction, along, tolerance);
        value = moved.value;
        along.length = std::max(std::abs(moved.step), 0.1);
        directions.col(largest) = directions.col(n - 1);
        known[static_cast<std::size_t>(largest)] = known.back();
        directions.col(n - 1) = direction;
        known.back() = along;
        is_fresh = false;
      }
    }
    // A search that finds nothing is exact to a part of its first step alone: the steps must be short as well.
    constexpr double short_step = 1e-7; // what values can tell of a minimum's place
    const bool all_short = std::ranges::max(known, {}, &ValueLine::Knowledge::length).length <= short_step;
    idle = relative_size(evaluate.problem(), x, direction) <= collapse && all_short ? idle + 1 : 0;
    Iteration now(x, value);
    now.column("step", length).column("fall", std::isfinite(begin_value) ? begin_value - value : 0);
    // The directions can have become dependent (Powell, 1964, section 3): it is the end only if the coordinates agree.
    if (idle >= 2 && is_fresh) now.settled("an iteration no longer moves");
    if (idle >= 2 && !is_fresh) {
      directions = coordinates;
      std::ranges::fill(known, ValueLine::Knowledge{.length = step});
      is_fresh = true;
      idle = 0;
    }
    co_yield now;
  }
}

} // namespace tanzen::methods
