#include "tanzen/methods/gradient/conjugate_gradient.hpp"

#include "tanzen/methods/line/descent_step.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

using Formula = ConjugateGradient::Formula;

/// The part of the last direction `d` that goes into the next one; `g` is the new gradient, `old` the one before,
/// `y` their difference.
double conjugacy(Formula formula, const Vector& g, const Vector& old, const Vector& y, const Vector& d) {
  const double curvature = d.dot(y);
  switch (formula) {
  case Formula::fletcher_reeves: return g.squaredNorm() / old.squaredNorm();
  case Formula::polak_ribiere: return std::max(0.0, g.dot(y) / old.squaredNorm());
  case Formula::hestenes_stiefel: return std::max(0.0, g.dot(y) / curvature);
  case Formula::dai_yuan: return g.squaredNorm() / curvature;
  case Formula::hager_zhang: break;
  }
  constexpr double eta = 0.01;
  const double beta = (g.dot(y) - 2 * y.squaredNorm() / curvature * g.dot(d)) / curvature;
  return std::max(beta, -1 / (d.norm() * std::min(eta, old.norm())));
}

} // namespace

MethodCard ConjugateGradient::card() {
  return {
      .title = "nonlinear conjugate gradients with a choice of the conjugacy parameter",
      .family = "gradient",
      .source = "Fletcher and Reeves, 1964; Polak and Ribière, 1969; Hestenes and Stiefel, 1952; Dai and Yuan, 1999; "
                "Hager and Zhang, 2005; restarts: Powell, 1977",
      .summary = "A few vectors of memory and much faster than steepest descent in valleys. With exact steps it ends "
                 "on a quadratic in as many iterations as there are variables.",
      .needs = Derivatives::gradient};
}

void ConjugateGradient::settings(Settings& list) {
  list.add("formula", formula,
           {{"fletcher-reeves", Formula::fletcher_reeves},
            {"polak-ribiere", Formula::polak_ribiere},
            {"hestenes-stiefel", Formula::hestenes_stiefel},
            {"dai-yuan", Formula::dai_yuan},
            {"hager-zhang", Formula::hager_zhang}})
      .means("how much of the last direction goes into the next");
  list.add("line", line, {{"wolfe", LineSearch::wolfe}, {"exact", LineSearch::exact}})
      .means("the search along a direction");
  list.add("curvature", curvature).above(1e-4).below(1).means("wolfe: the part of the slope that may be left");
  list.add("restart", restart).at_least(1).means("iterations between restarts").unset_means("the number of variables");
}

Search ConjugateGradient::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Index most_steps = restart.value_or(std::max<Index>(n, 10));
  DescentStep line_search({.curvature = curvature}, line == LineSearch::exact);
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), old(n), y(n), d = -g;
  double value = start.value, trial = first_length(g), beta = 0;
  Index since_restart = 0;
  for (;;) {
    double slope = g.dot(d);
    if (!(slope < 0)) {
      d = -g;
      slope = -g.squaredNorm();
      since_restart = 0;
    }
    const LineStep step = line_search.find(evaluate, x, value, d, slope, trial);
    if (step.step == 0 && since_restart > 0) {
      d = -g;
      since_restart = 0;
      trial = first_length(g);
      continue;
    }
    if (step.step == 0) {
      co_yield Iteration(x, value).gradient_norm(g.norm()).column("step", 0).stalled(no_lower_value);
      continue;
    }
    x.swap(line_search.point());
    value = step.value;
    old.swap(g);
    g = evaluate.last_gradient();
    y = g - old;
    ++since_restart;
    const bool begins_anew = since_restart >= most_steps || std::abs(g.dot(old)) >= 0.2 * g.squaredNorm();
    beta = begins_anew ? 0 : conjugacy(formula, g, old, y, d);
    if (!std::isfinite(beta)) beta = 0;
    if (beta == 0) since_restart = 0;
    d = beta * d - g;
    // The first trial lowers the value to first order as much as the last step did.
    const double next_slope = g.dot(d);
    trial = std::min(10 * step.step, step.step * slope / next_slope);
    if (!(trial > 0)) trial = first_length(g);
    co_yield Iteration(x, value)
        .gradient_norm(g.norm())
        .column("step", step.step)
        .column("conjugacy", beta)
        .column("trials", static_cast<double>(step.trials));
  }
}

} // namespace tanzen::methods
