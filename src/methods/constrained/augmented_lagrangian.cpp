#include "tanzen/methods/constrained/augmented_lagrangian.hpp"

#include "multipliers.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// Birgin and Martínez, 2014, section 12.4: the violation weighs as much as the value, within bounds.
double first_penalty(const Evaluation& at, const std::vector<Constraint>& rows) {
  const auto c = at.constraints();
  double squares = 0;
  for (Index i = 0; i < c.size(); ++i) squares += std::pow(rows[static_cast<std::size_t>(i)].violation(c[i]), 2);
  const double balanced = 2 * std::max(1.0, std::abs(at.value)) / std::max(1.0, squares);
  return std::isfinite(balanced) ? std::clamp(balanced, 1e-3, 1e3) : 10;
}

} // namespace

MethodCard AugmentedLagrangian::card() {
  return {.title = "augmented Lagrangian, the method of multipliers",
          .family = "constrained",
          .source = "Hestenes, 1969; Powell, 1969; Conn, Gould and Toint, 1991; Birgin and Martínez, 2014",
          .limits = "bounds by the local method, constraints by multipliers and a penalty",
          .summary = "Equalities and inequalities with any local method inside, also one without derivatives.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void AugmentedLagrangian::settings(Settings& list) {
  local.settings(list);
  list.add("penalty", penalty)
      .positive()
      .unset_means("so that the first violation weighs as much as the value")
      .means("the first penalty");
  list.add("growth", growth).above(1).at_most(1e6).means("of the penalty where the violation does not fall");
  list.add("fall", fall).above(0).below(1).means("part of the last violation that the next must come below");
  list.add("accuracy", accuracy).positive().means("gradient norm at which local searches end, once near");
}

Search AugmentedLagrangian::search(Evaluator& evaluate, Start start) const {
  constexpr double largest_penalty = 1e14;
  constexpr Index most_idle = 4;
  const Problem& problem = evaluate.problem();
  Vector x = start.point, before = x;
  const Evaluation first = evaluate.at(x);
  double rho = penalty.value_or(first_penalty(first, problem.constraints()));
  Multipliers lagrangian(problem);
  // Steep rows count less, so that one penalty suits all (Birgin and Martínez, 2014).
  Vector weights = Vector::Ones(lagrangian.y.size());
  if (!evaluate.uses_differences()) {
    constexpr double steep = 100;
    (void)evaluate.jacobian(x);
    for (Index i = 0; i < weights.size(); ++i) {
      const double slope = evaluate.constraint_rows().row(i).lpNorm<Eigen::Infinity>();
      if (slope > steep) weights[i] = std::pow(steep / slope, 2);
    }
  }
  lagrangian.penalties = rho * weights;
  Evaluator inner = evaluate.with(lagrangian);
  LocalSearch descend(inner, local, {.constraints = true});
  StopRules rules{.iterations = 1000, .gradient_tolerance = {}, .gradient_norm = 1e-2};
  double misfit = std::numeric_limits<double>::infinity();
  Index idle = 0, broken = 0;
  for (Index k = 0;; ++k) {
    const Evaluation& here = evaluate.at(x);
    const LocalSearch::Result found = descend.improve(x, {lagrangian.value(here)}, start.random.child({k}), rules);
    const Evaluation& at = evaluate.at(x);
    const double now = lagrangian.misfit(at);
    double slope = std::numeric_limits<double>::quiet_NaN();
    // The augmented Lagrangian's gradient is that of the Lagrangian by the new multipliers.
    if (!inner.uses_differences())
      slope = ((x - inner.gradient(x)).cwiseMax(evaluate.bounds().lower()).cwiseMin(evaluate.bounds().upper()) - x)
                  .lpNorm<Eigen::Infinity>();
    lagrangian.update(at, 1);
    const bool fell = now <= fall * misfit;
    const bool stands = (x - before).norm() <= 1e-10 * (1 + x.norm());
    idle = stands && now <= 1e-2 * evaluate.feasibility() ? idle + 1 : 0;
    broken = at.violation > evaluate.feasibility() && rho >= largest_penalty ? broken + 1 : 0;
    // The last digits of a steep local search may be out of reach: then the point stands without being shown to be one.
    constexpr double nearly = 1e-6;
    const double residual = std::max({slope, now, lagrangian.largest_product(at)});
    const bool is_shown = std::isnan(slope) || residual <= nearly;
    Iteration iteration(x, at.value);
    iteration.violation(at.violation)
        .kkt(std::isnan(slope) ? slope : residual)
        .column("penalty", rho)
        .column("multiplier_norm", lagrangian.y.norm())
        .column("inner_iterations", static_cast<double>(found.iterations));
    if (idle >= most_idle && is_shown) iteration.settled("neither point nor multipliers move any more");
    if (idle >= most_idle && !is_shown) iteration.stalled("neither point nor multipliers move any more");
    if (broken >= 2 && evaluate.incumbent().is_feasible())
      iteration.stalled("the largest penalty leads no further");
    else if (broken >= 2)
      iteration.infeasible("the largest penalty does not lower the violation any more");
    co_yield iteration;
    if (!fell && now > 1e-3 * evaluate.feasibility()) rho = std::min(growth * rho, largest_penalty);
    lagrangian.penalties = rho * weights;
    misfit = now;
    before = x;
    rules.gradient_norm = std::max(accuracy, 0.1 * *rules.gradient_norm);
  }
}

} // namespace tanzen::methods
