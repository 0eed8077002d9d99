#include "tanzen/methods/line/bracket.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace tanzen::methods {
namespace {

constexpr double golden = std::numbers::phi;

double value_at(Evaluator& evaluate, double x) {
  return evaluate(Vector::Constant(1, x));
}

} // namespace

void IntervalSettings::settings(Settings& list) {
  list.add("lower", lower).means("where the interval begins").unset_means("the lower bound");
  list.add("upper", upper).means("where it ends").unset_means("the upper bound");
  list.add("first", first).positive().means("without an interval: the first step from the start, to bracket a minimum");
  list.add("tolerance", tolerance).positive().means("width of a closed interval, relative to the point");
}

std::optional<std::pair<double, double>> IntervalSettings::interval(const Bounds& bounds) const {
  const double a = std::max(lower.value_or(bounds.lower()[0]), bounds.lower()[0]);
  const double b = std::min(upper.value_or(bounds.upper()[0]), bounds.upper()[0]);
  if (!std::isfinite(a) || !std::isfinite(b)) return std::nullopt;
  if (!(a < b)) {
    throw InputError(
        fmt::format("the interval's lower end {} is not below its upper end {}", number_text(a), number_text(b)));
  }
  return std::pair(a, b);
}

Bracket downhill_bracket(Evaluator& evaluate, const LinePoint& start, double first) {
  const double least = evaluate.bounds().lower()[0], most = evaluate.bounds().upper()[0];
  LinePoint behind = start, middle{std::min(most, start.x + first), 0};
  if (middle.x == start.x) middle.x = std::max(least, start.x - first);
  middle.value = value_at(evaluate, middle.x);
  if (middle.value > behind.value) std::swap(behind, middle);
  double step = middle.x - behind.x;
  constexpr int most_steps = 200;
  for (int k = 0; k < most_steps; ++k) {
    step *= golden;
    const double x = std::clamp(middle.x + step, least, most);
    if (x == middle.x) return {std::min(behind.x, x), std::max(behind.x, x), middle}; // at a bound
    const LinePoint ahead{x, value_at(evaluate, x)};
    if (ahead.value >= middle.value) return {std::min(behind.x, x), std::max(behind.x, x), middle};
    behind = middle;
    middle = ahead;
  }
  return {std::min(behind.x, middle.x), std::max(behind.x, middle.x), middle};
}

ParabolicBracket::ParabolicBracket(const Bracket& bracket, double relative, double absolute)
    : lower_(bracket.lower), upper_(bracket.upper), best_(bracket.inside), second_(best_), third_(best_),
      relative_(relative), absolute_(absolute) {}

ParabolicBracket::ParabolicBracket(const LinePoint& one_end, const LinePoint& inside, const LinePoint& other_end,
                                   double relative, double absolute)
    : ParabolicBracket({std::min(one_end.x, other_end.x), std::max(one_end.x, other_end.x), inside}, relative,
                       absolute) {
  const bool is_first_lower = one_end.value < other_end.value;
  second_ = is_first_lower ? one_end : other_end;
  third_ = is_first_lower ? other_end : one_end;
  move_before_ = upper_ - lower_;
}

bool ParabolicBracket::is_closed() const {
  return std::abs(best_.x - 0.5 * (lower_ + upper_)) <= 2 * tolerance() - 0.5 * (upper_ - lower_);
}

double ParabolicBracket::curvature() const {
  const LinePoint &a = best_, &b = second_, &c = third_;
  return 2 * ((c.value - a.value) / (c.x - a.x) - (b.value - a.value) / (b.x - a.x)) / (c.x - b.x);
}

double ParabolicBracket::propose() {
  const double middle = 0.5 * (lower_ + upper_), enough = tolerance(), x = best_.x;
  double p = 0, q = 0, before = 0;
  if (std::abs(move_before_) > enough) {
    const double r = (x - second_.x) * (best_.value - third_.value);
    q = (x - third_.x) * (best_.value - second_.value);
    p = (x - third_.x) * q - (x - second_.x) * r;
    q = 2 * (q - r);
    if (q > 0) p = -p;
    q = std::abs(q);
    before = move_before_;
    move_before_ = move_;
  }
  if (std::abs(p) < std::abs(0.5 * q * before) && p > q * (lower_ - x) && p < q * (upper_ - x)) {
    move_ = p / q;
    const double there = x + move_;
    if (there - lower_ < 2 * enough || upper_ - there < 2 * enough) move_ = x < middle ? enough : -enough;
  } else {
    move_before_ = x < middle ? upper_ - x : lower_ - x;
    move_ = (2 - golden) * move_before_;
  }
  return x + (std::abs(move_) >= enough ? move_ : std::copysign(enough, move_));
}

void ParabolicBracket::note(double x, double value) {
  if (value <= best_.value) {
    (x < best_.x ? upper_ : lower_) = best_.x;
    third_ = second_;
    second_ = best_;
    best_ = {x, value};
    return;
  }
  (x < best_.x ? lower_ : upper_) = x;
  if (value <= second_.value || second_.x == best_.x) {
    third_ = second_;
    second_ = {x, value};
  } else if (value <= third_.value || third_.x == best_.x || third_.x == second_.x) {
    third_ = {x, value};
  }
}

} // namespace tanzen::methods
