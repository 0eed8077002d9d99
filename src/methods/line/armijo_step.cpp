#include "tanzen/methods/line/armijo_step.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

void ReferenceValue::note(double value) {
  if (values_.size() < values_.capacity()) {
    values_.push_back(value);
    return;
  }
  values_[next_] = value;
  next_ = (next_ + 1) % values_.size();
}

double ReferenceValue::largest() const {
  return *std::ranges::max_element(values_);
}

LineStep ArmijoSearch::find(Evaluator& evaluate, const Vector& from, double reference, const Vector& gradient,
                            const Vector& direction, double first_step, const ArmijoSettings& settings) {
  const Bounds& bounds = evaluate.bounds();
  double step = first_step;
  for (Index trials = 1; trials <= settings.trials; ++trials) {
    point = from + step * direction;
    bounds.project(point);
    const double change = gradient.dot(point) - gradient.dot(from); // what the slope predicts; negative
    if (point == from) return {0, reference, false, trials};
    const double value = evaluate(point);
    if (std::isfinite(value) && value <= reference + settings.decrease * change) return {step, value, true, trials};
    const double parabola = -0.5 * change / (value - reference - change);
    step *= std::isfinite(parabola) ? std::clamp(parabola, 0.1, settings.shrink) : settings.shrink;
  }
  return {0, reference, false, settings.trials};
}

} // namespace tanzen::methods
