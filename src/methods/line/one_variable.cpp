#include "tanzen/methods/line/one_variable.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace tanzen::methods {
namespace {

constexpr std::string_view closed_text = "the interval has closed";
constexpr const char* within = "they cut the interval, or are it where none is set";

MethodCard one_variable(std::string title, std::string source, std::string summary, Derivatives needs) {
  return {.title = std::move(title),
          .family = "one variable",
          .source = std::move(source),
          .limits = within,
          .summary = std::move(summary),
          .needs = needs,
          .able = {.bounds = true, .most_variables = 1}};
}

/// What the run begins with: the interval, or a bracket found from the start. The inside point is the start where it
/// lies inside.
Bracket first_bracket(const IntervalSettings& settings, Evaluator& evaluate, const Start& start) {
  const LinePoint from{start.point[0], start.value};
  const auto interval = settings.interval(evaluate.bounds());
  if (!interval) return downhill_bracket(evaluate, from, settings.first);
  const auto [a, b] = *interval;
  if (from.x > a && from.x < b) return {a, b, from};
  const double x = a + (2 - std::numbers::phi) * (b - a);
  return {a, b, {x, evaluate(Vector::Constant(1, x))}};
}

} // namespace

MethodCard GoldenSection::card() {
  return one_variable("golden section of an interval", "Kiefer, 1953",
                      "The plainest and surest: the interval shrinks by 0.618 with each value, whatever the function.",
                      Derivatives::none);
}

Search GoldenSection::search(Evaluator& evaluate, Start start) const {
  constexpr double part = 2 - std::numbers::phi; // 0.382
  const Bracket bracket = first_bracket(interval, evaluate, start);
  double a = bracket.lower, b = bracket.upper;
  Vector x(1);
  const auto value_at = [&](double place) {
    x[0] = place;
    return evaluate(x);
  };
  LinePoint left{a + part * (b - a), 0}, right{b - part * (b - a), 0};
  left.value = value_at(left.x);
  right.value = value_at(right.x);
  for (;;) {
    if (left.value <= right.value) {
      b = right.x;
      right = left;
      left = {a + part * (b - a), 0};
      left.value = value_at(left.x);
    } else {
      a = left.x;
      left = right;
      right = {b - part * (b - a), 0};
      right.value = value_at(right.x);
    }
    const LinePoint& best = left.value <= right.value ? left : right;
    x[0] = best.x;
    const bool is_closed = b - a <= interval.closed(best.x);
    co_yield Iteration(x, best.value).column("width", b - a).settled(is_closed ? closed_text : std::string_view());
  }
}

MethodCard Parabolic::card() {
  return one_variable("parabolas through three points, safeguarded by golden section", "Brent, 1973, chapter 5",
                      "The usual choice in one variable without a derivative: superlinear on smooth functions.",
                      Derivatives::none);
}

Search Parabolic::search(Evaluator& evaluate, Start start) const {
  ParabolicBracket bracket(first_bracket(interval, evaluate, start), interval.tolerance, 1e-3 * interval.tolerance);
  Vector x(1);
  for (;;) {
    x[0] = bracket.propose();
    const double place = x[0];
    bracket.note(place, evaluate(x));
    x[0] = bracket.best().x;
    co_yield Iteration(x, bracket.best().value)
        .column("width", bracket.width())
        .settled(bracket.is_closed() ? closed_text : std::string_view());
  }
}

MethodCard Cubic::card() {
  return one_variable("cubics through two values and slopes, safeguarded", "Davidon, 1959; Luenberger and Ye, 2008",
                      "The usual choice in one variable with a derivative: quadratic convergence.",
                      Derivatives::gradient);
}

Search Cubic::search(Evaluator& evaluate, Start start) const {
  struct Place {
    double x, value, slope;
  };
  Vector x(1), slope(1);
  const auto look = [&](double place) {
    x[0] = place;
    const auto [value, gradient] = evaluate.value_and_gradient(x);
    return Place{place, value, gradient[0]};
  };
  // Two places with the slope downhill towards each other.
  const Bracket bracket = first_bracket(interval, evaluate, start);
  Place inside = look(bracket.inside.x);
  Place other = look(inside.slope > 0 ? bracket.lower : bracket.upper);
  Place low = inside.slope > 0 ? other : inside, high = inside.slope > 0 ? inside : other;
  for (;;) {
    const bool no_change = low.slope >= 0 || high.slope <= 0; // the minimum is at an end, or a slope is zero
    const double width = high.x - low.x;
    const double d1 = low.slope + high.slope - 3 * (low.value - high.value) / (low.x - high.x);
    const double d2 = std::sqrt(std::max(0.0, d1 * d1 - low.slope * high.slope));
    double trial = high.x - width * (high.slope + d2 - d1) / (high.slope - low.slope + 2 * d2);
    const double margin = std::min(0.1 * width, 0.5 * interval.closed(low.x));
    trial = std::isfinite(trial) ? std::clamp(trial, low.x + margin, high.x - margin) : 0.5 * (low.x + high.x);
    if (!no_change) {
      const Place now = look(trial);
      (now.slope > 0 || !std::isfinite(now.value) ? high : low) = now;
      // Where one end stays, cut the interval in the middle as well: it closes from both sides.
      if (high.x - low.x > 0.5 * width && high.x - low.x > interval.closed(now.x)) {
        const Place middle = look(0.5 * (low.x + high.x));
        (middle.slope > 0 || !std::isfinite(middle.value) ? high : low) = middle;
      }
    }
    const Place& best = high.value < low.value ? high : low;
    const bool is_closed = no_change || high.x - low.x <= interval.closed(best.x) || best.slope == 0;
    x[0] = best.x;
    slope[0] = best.slope;
    co_yield Iteration(x, best.value)
        .gradient(slope, evaluate.bounds())
        .column("width", high.x - low.x)
        .settled(is_closed ? closed_text : std::string_view());
  }
}

MethodCard IntervalScan::card() {
  return one_variable("every minimum of an interval, to a resolution",
                      "Brent, 1973, chapter 5, from every low place of a grid",
                      "Lists the minima in the order they lie, the ends among them, and ends with the best. Surer than "
                      "any start when the function is cheap.",
                      Derivatives::none);
}

void IntervalScan::settings(Settings& list) {
  list.add("lower", lower).means("where the interval begins").unset_means("the lower bound, or the region's");
  list.add("upper", upper).means("where it ends").unset_means("the upper bound, or the region's");
  list.add("points", points).between(3, 1e8).means("values on the grid; a narrower minimum is missed");
  list.add("tolerance", tolerance).positive().means("exactness of each minimum, relative to the point");
}

Search IntervalScan::search(Evaluator& evaluate, Start /*start*/) const {
  const Box region = evaluate.problem().sampling_box();
  const Bounds& bounds = evaluate.bounds();
  const double a = std::max(lower.value_or(region.lower[0]), bounds.lower()[0]);
  const double b = std::min(upper.value_or(region.upper[0]), bounds.upper()[0]);
  if (!(a < b))
    throw InputError(
        fmt::format("the interval's lower end {} is not below its upper end {}", number_text(a), number_text(b)));
  Vector x(1), best(1);
  const auto value_at = [&](double place) {
    x[0] = place;
    return LinePoint{place, evaluate(x)};
  };
  const auto listed = [&](const LinePoint& minimum) {
    x[0] = minimum.x;
    evaluate.found_minimum(x, minimum.value);
  };
  const auto grid = [&](Index k) {
    return k + 1 == points ? b : a + (b - a) * static_cast<double>(k) / static_cast<double>(points - 1);
  };
  LinePoint before = value_at(a), here = value_at(grid(1));
  LinePoint lowest = before;
  double found = 0;
  if (before.value < here.value) {
    listed(before);
    found += 1;
    co_yield Iteration(x, before.value).column("minima", found).column("at_end", 1);
  }
  for (Index k = 2; k < points; ++k) {
    const LinePoint after = value_at(grid(k));
    if (here.value < before.value && here.value <= after.value) {
      ParabolicBracket bracket({before.x, after.x, here}, tolerance, 1e-3 * tolerance);
      while (!bracket.is_closed()) {
        const double place = bracket.propose();
        bracket.note(place, value_at(place).value);
      }
      if (bracket.best().value < lowest.value) lowest = bracket.best();
      listed(bracket.best());
      found += 1;
      co_yield Iteration(x, bracket.best().value).column("minima", found).column("at_end", 0);
    }
    before = here;
    here = after;
  }
  if (here.value < before.value) {
    if (here.value < lowest.value) lowest = here;
    listed(here);
    found += 1;
    co_yield Iteration(x, here.value).column("minima", found).column("at_end", 1);
  }
  best[0] = lowest.x;
  for (;;) {
    co_yield Iteration(best, lowest.value)
        .column("minima", found)
        .column("at_end", lowest.x == a || lowest.x == b ? 1 : 0)
        .settled("the whole interval has been scanned");
  }
}

} // namespace tanzen::methods
