#pragma once

#include "tanzen/methods/gradient/step_schedule.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// Steepest descent (Cauchy, 1847) with a choice of step rules; within bounds, the projected gradient method
/// (Goldstein, 1964; Bertsekas, 1976).
///
/// Cost of an iteration: one value and one gradient with a fixed, decaying or Polyak step; one of each a trial with the
/// exact and the Wolfe rule; one value a trial and one gradient with the others.
struct GradientDescent {
  enum class Rule {
    fixed,        ///< x - step * g, the step as its schedule says
    exact,        ///< to the first stationary point of the ray
    backtracking, ///< halved until the value falls enough (Armijo, 1966)
    wolfe,        ///< to the strong Wolfe conditions
    bb_long,      ///< s.s / s.y of the last step (Barzilai and Borwein, 1988, equation 5), safeguarded
    bb_short,     ///< s.y / y.y, equation 6
    polyak,       ///< (value - best value) / g.g (Polyak, 1969)
  };

  Rule rule = Rule::fixed;
  StepSchedule schedule;  ///< of the fixed step; its first step is the first trial of the other rules
  double shrink = 0.5;    ///< backtracking: a trial's step against the last one's
  double decrease = 1e-4; ///< the part of the predicted decrease that must come true
  double curvature = 0.1; ///< wolfe: the part of the slope that may be left
  Index memory = 10;      ///< Barzilai-Borwein: values that the decrease is measured against (Raydan, 1997)
  std::optional<Index> batch =
      {}; ///< fixed: rows of data a step; unset: all. Stochastic gradients (Robbins and Monro, 1951)
  std::optional<double> best = {}; ///< polyak: the best value; unset means that of the problem

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;

 private:
  Search search_fixed(Evaluator& evaluate, Start start) const;
  Search search_by_batches(Evaluator& evaluate, Start start) const;
  Search search_along_rays(Evaluator& evaluate, Start start) const;
  Search search_backtracking(Evaluator& evaluate, Start start) const;
  Search search_with_two_points(Evaluator& evaluate, Start start) const;
  Search search_to_best_value(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
