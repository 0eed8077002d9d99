#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/settings.hpp"

#include <cmath>
#include <optional>
#include <utility>

namespace tanzen::methods {

/// A place on the line and the value there.
struct LinePoint {
  double x = 0;
  double value = 0;
};

/// An interval, and a point inside it that is no higher than its ends: a minimum lies between them.
struct Bracket {
  double lower = 0;
  double upper = 0;
  LinePoint inside;
};

/// The interval that a one-variable method is given: by its settings, or where they are unset by the bounds.
struct IntervalSettings {
  std::optional<double> lower = {}, upper = {};
  double first = 0.1; ///< without an interval: the first step from the start
  double tolerance = 1e-8;

  void settings(Settings& list);
  /// The ends, within the bounds, where both are known. Throws InputError where the lower one is not below the upper
  /// one.
  [[nodiscard]] std::optional<std::pair<double, double>> interval(const Bounds& bounds) const;
  /// The width at which an interval counts as closed.
  [[nodiscard]] double closed(double x) const { return tolerance * (1e-3 + std::abs(x)); }
};

/// A bracket around a minimum: steps downhill from the start, each longer than the last one by the golden ratio, until
/// the value rises or a bound ends it. Cost: one value a step. Where the value falls for 200 steps it gives up and what
/// it has is the bracket.
[[nodiscard]] Bracket downhill_bracket(Evaluator& evaluate, const LinePoint& start, double first);

/// Parabolas through three points, with golden sections where they go astray (Brent, 1973, chapter 5): proposes where
/// to look next, and keeps the bracket. Superlinear, of order 1.32, at a smooth minimum; never much slower than golden
/// section.
class ParabolicBracket {
 public:
  ParabolicBracket(const Bracket& bracket, double relative, double absolute);
  /// The values at the ends are known too, so that it begins with a parabola.
  ParabolicBracket(const LinePoint& one_end, const LinePoint& inside, const LinePoint& other_end, double relative,
                   double absolute);

  [[nodiscard]] bool is_closed() const;
  /// Where the next value is wanted; always inside the bracket.
  [[nodiscard]] double propose();
  /// Whether what was proposed last lies within the tolerance of the best.
  [[nodiscard]] bool hardly_moves() const { return std::abs(move_) <= tolerance(); }
  void note(double x, double value);
  /// The second derivative of the parabola through the three best points.
  [[nodiscard]] double curvature() const;
  [[nodiscard]] const LinePoint& best() const { return best_; }
  [[nodiscard]] double width() const { return upper_ - lower_; }

 private:
  [[nodiscard]] double tolerance() const { return relative_ * std::abs(best_.x) + absolute_; }

  double lower_, upper_;
  LinePoint best_, second_, third_;
  double relative_, absolute_;
  double move_ = 0, move_before_ = 0;
};

} // namespace tanzen::methods
