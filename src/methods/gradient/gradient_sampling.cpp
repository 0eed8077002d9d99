#include "tanzen/methods/gradient/gradient_sampling.hpp"

#include "tanzen/methods/direct/region_scale.hpp"
#include "tanzen/numeric/signed_least_squares.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// A point of the unit ball, evenly.
void fill_from_ball(Vector& u, RandomStream& random) {
  do random.fill_normal(u);
  while (u.squaredNorm() == 0);
  u *= std::pow(random.uniform(), 1 / static_cast<double>(u.size())) / u.norm();
}

} // namespace

MethodCard GradientSampling::card() {
  return {.title = "steepest descent by sampled gradients, for functions with kinks",
          .family = "gradient",
          .source = "Burke, Lewis and Overton, 2005",
          .summary =
              "Functions that have a gradient nearly everywhere, but kinks where the minimum is: maxima of smooth "
              "functions, absolute values. Up to some tens of variables.",
          .needs = Derivatives::gradient};
}

void GradientSampling::settings(Settings& list) {
  list.add("samples", samples).at_least(1).at_most(1e5).means("gradients around the point").unset_means("2 n");
  list.add("radius", radius).positive().means("of the first ball, as a part of the region's width");
  list.add("shrink", shrink).above(0).below(1).means("of the ball, where its gradients nearly cancel");
  list.add("collapse", collapse).positive().means("done when the ball is smaller");
}

Search GradientSampling::search(Evaluator& evaluate, Start start) const {
  constexpr double decrease = 1e-8; // beta of the paper
  constexpr int most_trials = 50;
  const Index n = start.point.size(), count = samples.value_or(2 * n);
  const Vector scale = region_scale(evaluate.problem().sampling_box());
  Vector x = start.point, next(n), u(n), hull(n);
  Matrix gradients(n, count + 1);
  double value = start.value, ball = radius, enough = -1, last = 1;
  for (;;) {
    gradients.col(0) = scale.cwiseProduct(evaluate.gradient(x));
    Index there = 1; // gradients that there are
    for (Index k = 0; k < count; ++k) {
      fill_from_ball(u, start.random);
      next = x + ball * scale.cwiseProduct(u);
      gradients.col(there) = scale.cwiseProduct(evaluate.gradient(next));
      if (gradients.col(there).allFinite()) ++there;
    }
    const auto all = gradients.leftCols(there);
    hull.noalias() = all * shortest_hull_weights(all);
    const double norm = hull.norm();
    if (enough < 0) enough = shrink * norm;
    double step = 0;
    if (norm > enough) {
      double trial = std::min(1.0, std::max(2 * last, ball));
      for (int k = 0; k < most_trials && step == 0; ++k, trial *= 0.5) {
        next = x - trial / norm * scale.cwiseProduct(hull);
        if (next == x) break;
        const double there_value = evaluate(next);
        if (!(there_value < value - decrease * trial * norm)) continue;
        step = trial;
        x = next;
        value = there_value;
      }
    }
    if (step > 0) {
      last = step;
    } else {
      ball *= shrink;
      enough *= shrink;
    }
    co_yield Iteration(x, value)
        .column("step", step)
        .column("hull", norm)
        .column("radius", ball)
        .settled(ball < collapse ? "the gradients of the smallest ball cancel" : std::string_view());
  }
}

} // namespace tanzen::methods
