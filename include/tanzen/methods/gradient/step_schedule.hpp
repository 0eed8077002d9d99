#pragma once

#include "tanzen/search/settings.hpp"

#include <cmath>

namespace tanzen::methods {

/// How a step shrinks as a run goes on; `t` counts iterations from 0.
struct StepSchedule {
  enum class Kind {
    constant,    ///< step
    inverse,     ///< step / (1 + decay t), which sums without limit while its squares do not (Robbins and Monro, 1951)
    root,        ///< step / sqrt(1 + decay t)
    exponential, ///< step exp(-decay t)
  };

  double step = 0.01;
  Kind kind = Kind::constant;
  double decay = 0.01;

  [[nodiscard]] double at(double t) const {
    switch (kind) {
    case Kind::constant: return step;
    case Kind::inverse: return step / (1 + decay * t);
    case Kind::root: return step / std::sqrt(1 + decay * t);
    case Kind::exponential: break;
    }
    return step * std::exp(-decay * t);
  }

  void settings(Settings& list) {
    list.add("step", step).positive().means("length of the step, before any decay");
    list.add("schedule", kind,
             {{"constant", Kind::constant},
              {"inverse", Kind::inverse},
              {"root", Kind::root},
              {"exponential", Kind::exponential}})
        .means("how the step shrinks with the iterations");
    list.add("decay", decay).at_least(0).means("how fast it shrinks, an iteration");
  }
};

} // namespace tanzen::methods
