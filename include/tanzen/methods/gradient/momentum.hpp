#pragma once

#include "tanzen/methods/gradient/step_schedule.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Steepest descent with momentum, the heavy ball (Polyak, 1964): each step adds a part of the last one.
/// Cost of an iteration: one value and one gradient.
struct Momentum {
  StepSchedule schedule;
  double momentum = 0.9;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

/// Accelerated gradient descent (Nesterov, 1983), begun anew where the momentum points uphill (O'Donoghue and Candès,
/// 2015, section 3.2, the gradient scheme). Gradients are those of the extrapolated points. Cost of an iteration: one
/// value and one gradient.
struct Nesterov {
  StepSchedule schedule;
  bool restart = true;

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
