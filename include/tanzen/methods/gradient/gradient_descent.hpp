#pragma once

#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

namespace tanzen::methods {

/// Steepest descent (Cauchy, 1847) with a choice of step rules; within bounds, the projected gradient method
/// (Goldstein, 1964; Bertsekas, 1976).
///
/// Cost of an iteration: one value and one gradient with a fixed step; one of each a trial with the exact rule;
/// one value a trial and one gradient with backtracking.
struct GradientDescent {
  enum class Rule {
    fixed,        ///< x - step * g
    exact,        ///< to the first stationary point of the ray
    backtracking, ///< halved until the value falls enough (Armijo, 1966)
  };

  Rule rule = Rule::fixed;
  double step = 0.01;     ///< the fixed step; otherwise the first trial of the first iteration
  double shrink = 0.5;    ///< backtracking: a trial's step against the last one's
  double decrease = 1e-4; ///< backtracking: the part of the predicted decrease that must come true

  static MethodCard card();
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;

 private:
  Search search_fixed(Evaluator& evaluate, Start start) const;
  Search search_exact(Evaluator& evaluate, Start start) const;
  Search search_backtracking(Evaluator& evaluate, Start start) const;
};

} // namespace tanzen::methods
