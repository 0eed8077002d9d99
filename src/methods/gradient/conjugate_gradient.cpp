#include "tanzen/methods/gradient/conjugate_gradient.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

using Formula = ConjugateGradient::Formula;

/// The part of the last direction `d` that goes into the next one; `g` is the new gradient, `old` the one before,
/// `y` their difference.
/// Hager and Zhang's is kept from below by a bound without units (2013, equation 2.4).
double conjugacy(Formula formula, const Vector& g, const Vector& old, const Vector& y, const Vector& d) {
  const double curvature = d.dot(y);
  switch (formula) {
  case Formula::fletcher_reeves: return g.squaredNorm() / old.squaredNorm();
  case Formula::polak_ribiere: return std::max(0.0, g.dot(y) / old.squaredNorm());
  case Formula::hestenes_stiefel: return std::max(0.0, g.dot(y) / curvature);
  case Formula::dai_yuan: return g.squaredNorm() / curvature;
  case Formula::hager_zhang: break;
  }
  constexpr double eta = 0.4;
  const double beta = (g.dot(y) - 2 * y.squaredNorm() / curvature * g.dot(d)) / curvature;
  return std::max(beta, eta * d.dot(old) / d.squaredNorm());
}

/// Whether directions by a formula jam unless they begin anew (Powell, 1977): the others turn back to steepest descent
/// by themselves where a step was short.
bool jams(Formula formula) {
  return formula == Formula::fletcher_reeves || formula == Formula::dai_yuan;
}

/// The first trial by one value more: the minimizer of the parabola through the value, its slope and the value at a
/// tenth of the last step; twice the last step where that has none (Hager and Zhang, 2005, steps I1 and I2).
class ParabolicTrial {
 public:
  double find(Evaluator& evaluate, const Vector& x, double value, const Vector& d, double slope, double last) {
    const double step = 0.1 * last;
    probe_ = x + step * d;
    const double rise = evaluate(probe_) - value - step * slope;
    const bool is_convex = rise > 0 && rise <= -step * slope;
    return is_convex ? -0.5 * step * step * slope / rise : 2 * last;
  }

 private:
  Vector probe_;
};

} // namespace

// Which formula: medians of values over 21 random starts to a gap of 1e-8, with the line search of Hager and Zhang, by
// hestenes-stiefel, polak-ribiere, hager-zhang and dai-yuan: on the rotated ellipsoid of condition 1e6 in 20 variables
// 222, 251, 389, 647, in 40 variables 813, 905, 1511, 2213; on rosenbrock in 10 variables 265, 283, 498 and hardly
// ever.
MethodCard ConjugateGradient::card() {
  return {.title = "nonlinear conjugate gradients with a choice of the conjugacy parameter",
          .family = "gradient",
          .source =
              "Fletcher and Reeves, 1964; Polak and Ribière, 1969; Hestenes and Stiefel, 1952; Dai and Yuan, 1999; "
              "Hager and Zhang, 2005 (its line search too) and 2013; restarts: Powell, 1977",
          .summary = "A few vectors of memory and much faster than steepest descent in valleys. With exact steps and "
                     "exact arithmetic it ends on a quadratic in as many iterations as there are variables.",
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
  add_line_rule(list, line);
  list.add("curvature", curvature).above(1e-4).below(1).means("part of the slope that a step may leave");
  list.add("restart", restart)
      .at_least(1)
      .means("iterations between restarts")
      .unset_means("the number of variables with fletcher-reeves and dai-yuan, otherwise none");
}

Search ConjugateGradient::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const bool by_slopes = line == LineRule::hager_zhang;
  const Index most_steps = restart.value_or(jams(formula) ? std::max<Index>(n, 10) : std::numeric_limits<Index>::max());
  const auto line_search = make_line_search({.rule = line, .decrease = by_slopes ? 0.1 : 1e-4, .curvature = curvature});
  ParabolicTrial parabola;
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), old(n), y(n), d = -g;
  const FirstLength first_length(evaluate.problem());
  double value = start.value, trial = first_length(value, g), beta = 0;
  bool is_first = true;
  Index since_restart = 0;
  for (;;) {
    double slope = g.dot(d);
    if (!(slope < 0)) {
      d = -g;
      slope = -g.squaredNorm();
      since_restart = 0;
    }
    if (by_slopes && !is_first) trial = parabola.find(evaluate, x, value, d, slope, trial);
    is_first = false;
    const LineStep step = line_search->find(evaluate, x, value, d, slope, trial);
    if (step.step == 0 && since_restart > 0) {
      d = -g;
      since_restart = 0;
      trial = first_length(value, g);
      continue;
    }
    if (step.step == 0) {
      co_yield Iteration(x, value).gradient(g).column("step", 0).stalled(no_lower_value);
      continue;
    }
    x.swap(line_search->point);
    value = step.value;
    old.swap(g);
    g = evaluate.last_gradient();
    y = g - old;
    ++since_restart;
    const bool is_far_from_orthogonal =
        formula != Formula::hager_zhang && std::abs(g.dot(old)) >= 0.2 * g.squaredNorm();
    const bool begins_anew = since_restart >= most_steps || is_far_from_orthogonal;
    beta = begins_anew ? 0 : conjugacy(formula, g, old, y, d);
    if (!std::isfinite(beta)) beta = 0;
    if (beta == 0) since_restart = 0;
    d = beta * d - g;
    const double next_slope = g.dot(d);
    // Lowers the value to first order as much as the last step did.
    trial = std::min(10 * step.step, step.step * slope / next_slope);
    if (!(trial > 0)) trial = first_length(value, g);
    co_yield Iteration(x, value)
        .gradient(g)
        .column("step", step.step)
        .column("conjugacy", beta)
        .column("trials", static_cast<double>(step.trials));
  }
}

} // namespace tanzen::methods
