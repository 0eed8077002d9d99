#include "tanzen/methods/direct/pattern_search.hpp"

namespace tanzen::methods {
namespace {

/// Moves along the coordinates by one step each.
class Explorer {
 public:
  Explorer(Evaluator& evaluate, Index n)
      : evaluate_(evaluate), scale_(evaluate.problem().sampling_box().width()), trial_(n) {}

  /// Takes every coordinate's move that lowers the value, or with `first_only` the first of them. The new value.
  double explore(Vector& x, double value, double step, bool first_only) {
    const Index n = x.size();
    for (Index k = 0; k < n; ++k) {
      const Index i = (k + begin_) % n;
      for (const double sign : {1.0, -1.0}) {
        trial_ = x;
        trial_[i] += sign * step * scale_[i];
        evaluate_.bounds().project(trial_);
        if (trial_[i] == x[i]) continue; // at the bound already
        const double found = evaluate_(trial_);
        if (!(found < value)) continue;
        x[i] = trial_[i];
        value = found;
        if (first_only) {
          begin_ = i; // the direction that has succeeded is tried first
          return value;
        }
        break;
      }
    }
    return value;
  }

 private:
  Evaluator& evaluate_;
  Vector scale_, trial_;
  Index begin_ = 0;
};

} // namespace

MethodCard PatternSearch::card() {
  return {.title = "pattern search along the coordinates",
          .family = "derivative-free",
          .source = "Hooke and Jeeves, 1961; compass: Kolda, Lewis and Torczon, 2003",
          .limits = "points outside are moved onto them",
          .summary =
              "Robust against noise and kinks, with few variables; slow where a valley lies across the coordinates.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void PatternSearch::settings(Settings& list) {
  list.add("form", form, {{"hooke-jeeves", Form::hooke_jeeves}, {"compass", Form::compass}})
      .means("explorations with pattern moves, or the first better neighbour");
  list.add("step", step).positive().means("first step, as a part of the region's width");
  list.add("collapse", collapse).positive().means("done when the step is below this");
}

Search PatternSearch::search(Evaluator& evaluate, Start start) const {
  Explorer explorer(evaluate, start.point.size());
  Vector base = start.point, x = base, pattern(base.size());
  double base_value = start.value, length = step;
  bool is_pattern = false; // x is a pattern move away from the base
  for (;;) {
    const double begin_value = is_pattern ? evaluate(x) : base_value;
    const double value = explorer.explore(x, begin_value, length, form == Form::compass);
    if (value < base_value) {
      pattern = x + (x - base);
      base.swap(x);
      base_value = value;
      is_pattern = form == Form::hooke_jeeves;
      if (is_pattern) {
        x = pattern;
        evaluate.bounds().project(x);
      } else {
        x = base;
      }
    } else {
      if (!is_pattern) length *= 0.5;
      is_pattern = false;
      x = base;
    }
    Iteration now(base, base_value);
    now.column("step", length);
    if (length < collapse) now.settled("the step has become too short to matter");
    co_yield now;
  }
}

} // namespace tanzen::methods
