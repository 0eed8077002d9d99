#include "tanzen/methods/direct/powell.hpp"

#include "tanzen/methods/direct/value_line.hpp"

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
  list.add("collapse", collapse).positive().means("done when an iteration moves less than this, relative to 1 + |x|");
}

Search Powell::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Matrix coordinates = evaluate.problem().sampling_box().width().asDiagonal();
  Matrix directions = coordinates;
  ValueLine line(evaluate, n);
  Vector x = start.point, begin(n), direction(n), extrapolated(n);
  Vector lengths = Vector::Constant(n, step); // how far each direction went last
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
      const auto moved = line.minimize(x, value, direction, lengths[i], tolerance);
      // The next search along it begins with a step of the length that this one took.
      lengths[i] = moved.step != 0 ? std::abs(moved.step) : 0.1 * lengths[i];
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
        const auto moved = line.minimize(x, value, direction, 1, tolerance);
        value = moved.value;
        directions.col(largest) = directions.col(n - 1);
        lengths[largest] = lengths[n - 1];
        directions.col(n - 1) = direction;
        lengths[n - 1] = std::max(std::abs(moved.step), 0.1);
        is_fresh = false;
      }
    }
    idle = length <= collapse * (1 + x.norm()) ? idle + 1 : 0;
    Iteration now(x, value);
    now.column("step", length).column("fall", std::isfinite(begin_value) ? begin_value - value : 0);
    // The directions can have become dependent (Powell, 1964, section 3): it is the end only if the coordinates agree.
    if (idle >= 2 && is_fresh) now.settled("an iteration no longer moves");
    if (idle >= 2 && !is_fresh) {
      directions = coordinates;
      lengths.setConstant(step);
      is_fresh = true;
      idle = 0;
    }
    co_yield now;
  }
}

} // namespace tanzen::methods
