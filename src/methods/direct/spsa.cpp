#include "tanzen/methods/direct/spsa.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// Slopes along random directions of signs.
class Perturbation {
 public:
  Perturbation(Evaluator& evaluate, Index n)
      : signs(n), evaluate_(evaluate), scale_(evaluate.problem().sampling_box().width()), up_(n), down_(n) {}

  /// The difference quotient along new signs, in the region's scale; zero where a value is missing.
  double slope(const Vector& x, double size, RandomStream& random) {
    for (double& sign : signs) sign = random.below(2) == 0 ? 1 : -1;
    up_ = x + size * scale_.cwiseProduct(signs);
    down_ = x - size * scale_.cwiseProduct(signs);
    evaluate_.bounds().project(up_);
    evaluate_.bounds().project(down_);
    const double change = evaluate_(up_) - evaluate_(down_);
    return std::isfinite(change) ? change / (2 * size) : 0;
  }

  Vector signs;

 private:
  Evaluator& evaluate_;
  Vector scale_, up_, down_;
};

} // namespace

MethodCard Spsa::card() {
  return {.title = "stochastic approximation by simultaneous perturbation",
          .family = "derivative-free",
          .source = "Spall, 1992 and 1998",
          .limits = "points outside are moved onto them",
          .summary = "Very noisy values and many variables, where a rough answer is enough: two values a step, however "
                     "many variables there are.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void Spsa::settings(Settings& list) {
  list.add("step", step).positive().means("first step, as a part of the region's width");
  list.add("perturbation", perturbation).positive().means("first perturbation, as a part of the region's width");
  list.add("step-decay", step_decay).between(0, 2).means("steps fall with the iterations to this power (alpha)");
  list.add("perturbation-decay", perturbation_decay).between(0, 1).means("perturbations likewise (gamma)");
  list.add("steadying", steadying).at_least(0).means("iterations before the steps begin to fall (A)");
}

Search Spsa::search(Evaluator& evaluate, Start start) const {
  constexpr int first_slopes = 10, most_idle = 100;
  const Index n = start.point.size();
  const Vector scale = evaluate.problem().sampling_box().width();
  Perturbation perturb(evaluate, n);
  Vector x = start.point;
  double mean_slope = 0;
  for (int k = 0; k < first_slopes; ++k)
    mean_slope += std::abs(perturb.slope(x, perturbation, start.random)) / first_slopes;
  const double gain = mean_slope > 0 ? step / mean_slope : 0; // the first steps have the length wanted
  int idle = 0;
  for (double k = 0;; ++k) {
    const double size = perturbation / std::pow(k + 1, perturbation_decay);
    const double slope = perturb.slope(x, size, start.random);
    const double length = gain * std::pow((steadying + 1) / (steadying + 1 + k), step_decay);
    // Blocking: no step is longer than ten first ones.
    const double move = std::clamp(length * slope, -10 * step, 10 * step);
    x -= move * scale.cwiseProduct(perturb.signs);
    evaluate.bounds().project(x);
    idle = slope == 0 ? idle + 1 : 0;
    Iteration now(x, evaluate(x));
    now.column("step", std::abs(move)).column("perturbation", size).column("slope", slope);
    if (idle >= most_idle) now.settled("the values no longer differ");
    co_yield now;
  }
}

} // namespace tanzen::methods
