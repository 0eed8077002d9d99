#pragma once

#include "tanzen/methods/line/bracket.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Golden section (Kiefer, 1953): each value cuts the interval by 0.618. For a unimodal function; otherwise it finds a
/// local minimum. Cost of an iteration: one value.
struct GoldenSection {
  IntervalSettings interval;

  static MethodCard card();
  void settings(Settings& list) { interval.settings(list); }
  Search search(Evaluator& evaluate, Start start) const;
};

/// Safeguarded parabolic interpolation (Brent, 1973, chapter 5). Cost of an iteration: one value.
struct Parabolic {
  IntervalSettings interval;

  static MethodCard card();
  void settings(Settings& list) { interval.settings(list); }
  Search search(Evaluator& evaluate, Start start) const;
};

/// Safeguarded cubic interpolation of values and slopes (Davidon, 1959; Luenberger and Ye, 2008, section 8.1):
/// quadratic convergence. Cost of an iteration: one value and one gradient.
struct Cubic {
  IntervalSettings interval;

  static MethodCard card();
  void settings(Settings& list) { interval.settings(list); }
  Search search(Evaluator& evaluate, Start start) const;
};

/// Every minimum of an interval, to a resolution: values on a grid, each place lower than its neighbours refined by
/// parabolas (Brent, 1973, chapter 5), the ends as well. One iteration is one minimum; the last tells the best. A
/// minimum narrower than the grid is missed.
///
/// Cost: `points` values, and some ten for each minimum.
struct IntervalScan {
  std::optional<double> lower = {}, upper = {}; ///< unset: the bounds, or the region
  Index points = 1000;
  double tolerance = 1e-8;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
