#pragma once

#include "tanzen/search/evaluator.hpp"

namespace tanzen {

struct Evaluator::Run {
  Run(const Problem& of, const StopRules& rules, Team team, std::function<bool()> asked_to_stop)
      : problem(of), ledger(rules), incumbent(problem, rules.feasibility),
        visitor(problem, rules.stop_on_broken, std::move(team), {ledger.deadline(), std::move(asked_to_stop)}) {}

  const Problem problem;
  Ledger ledger;
  Incumbent incumbent;
  Visitor visitor;
  FoundMinima minima;
  std::optional<Proof> proof;
  bool gradient_asked = false;
  double start_gradient_norm = std::numeric_limits<double>::quiet_NaN();
};

} // namespace tanzen
