#include "tanzen/methods/direct/implicit_filtering.hpp"

#include "tanzen/methods/direct/region_scale.hpp"

#include <cmath>

namespace tanzen::methods {
namespace {

/// Values around a point at plus and minus one width along each variable, and what follows from them.
class Stencil {
 public:
  Stencil(Evaluator& evaluate, Index n)
      : best_point(n), gradient(n), evaluate_(evaluate), scale_(region_scale(evaluate.problem().sampling_box())),
        trial_(n) {}

  /// Gradient in scaled coordinates; one-sided where the other side is outside or has no value.
  void look(const Vector& x, double value, double width) {
    best_value = value;
    for (Index i = 0; i < x.size(); ++i) {
      const double h = width * scale_[i];
      const double up = value_at(x, i, h), down = value_at(x, i, -h);
      if (std::isfinite(up) && std::isfinite(down))
        gradient[i] = (up - down) / (2 * width);
      else if (std::isfinite(up))
        gradient[i] = (up - value) / width;
      else
        gradient[i] = std::isfinite(down) ? (value - down) / width : 0;
    }
  }

  Vector best_point;
  double best_value = 0; ///< of the stencil and its centre
  Vector gradient;

 private:
  double value_at(const Vector& x, Index i, double h) {
    constexpr double missing = std::numeric_limits<double>::infinity();
    trial_ = x;
    trial_[i] += h;
    if (h == 0 || trial_[i] < evaluate_.bounds().lower()[i] || trial_[i] > evaluate_.bounds().upper()[i])
      return missing;
    const double value = evaluate_(trial_);
    if (value < best_value) {
      best_value = value;
      best_point = trial_;
    }
    return value;
  }

  Evaluator& evaluate_;
  Vector scale_, trial_;
};

} // namespace

MethodCard ImplicitFiltering::card() {
  return {.title = "implicit filtering: quasi-Newton on differences over a shrinking stencil",
          .family = "derivative-free",
          .source = "Gilmore and Kelley, 1995; Kelley, 2011",
          .limits = "steps are projected onto them, stencil points outside are left out",
          .summary =
              "A smooth function under small ripples or noise: it begins by looking at a scale that does not see "
              "them.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void ImplicitFiltering::settings(Settings& list) {
  list.add("width", width).positive().at_most(1).means("first stencil, as a part of the region's width");
  list.add("tolerance", tolerance).at_least(0).means("halve the stencil when the gradient is below this many of it");
  list.add("collapse", collapse).positive().means("done when the stencil is below this");
}

Search ImplicitFiltering::search(Evaluator& evaluate, Start start) const {
  constexpr int most_halvings = 10;
  const Index n = start.point.size();
  const Vector scale = region_scale(evaluate.problem().sampling_box());
  const Vector unscaled = scale.cwiseInverse();
  Stencil stencil(evaluate, n);
  Matrix inverse = Matrix::Identity(n, n);
  Vector x = start.point, trial(n), direction(n), s(n), y(n), work(n), last_gradient(n);
  double value = start.value, h = width;
  bool has_last = false; // a gradient of this stencil's width at the point before
  for (;;) {
    stencil.look(x, value, h);
    const Vector& g = stencil.gradient;
    if (has_last) { // the BFGS update of the inverse (Nocedal and Wright, 2006, equation 6.17)
      y = g - last_gradient;
      const double sy = s.dot(y);
      if (sy > 1e-10 * s.norm() * y.norm()) {
        work.noalias() = inverse * y;
        const double weight = (1 + y.dot(work) / sy) / sy;
        for (Index j = 0; j < n; ++j) inverse.col(j) += (weight * s[j] - work[j] / sy) * s - s[j] / sy * work;
      }
    }
    const bool stencil_failed = !(stencil.best_value < value);
    trial = x - scale.cwiseProduct(g);
    evaluate.bounds().project(trial);
    const double projected = (trial - x).cwiseProduct(unscaled).norm();
    bool moved = false;
    last_gradient = g;
    if (!stencil_failed && projected > tolerance * h) {
      direction.noalias() = inverse * g;
      direction = -direction;
      if (!(direction.dot(g) < 0)) {
        inverse.setIdentity();
        direction = -g;
      }
      double length = std::min(1.0, 1 / direction.norm()); // never longer than the region
      for (int k = 0; k < most_halvings && !moved; ++k, length *= 0.5) {
        trial = x + length * scale.cwiseProduct(direction);
        evaluate.bounds().project(trial);
        const double found = evaluate(trial);
        moved = found < value + 1e-4 * length * direction.dot(g) && found <= stencil.best_value;
        if (!moved) continue;
        s = (trial - x).cwiseProduct(unscaled);
        x.swap(trial);
        value = found;
      }
    }
    has_last = moved;
    if (!moved) {
      if (!stencil_failed) { // the stencil itself has a better point
        x = stencil.best_point;
        value = stencil.best_value;
      }
      if (stencil_failed || projected <= tolerance * h) {
        h *= 0.5;
      }
    }
    Iteration now(x, value);
    now.column("stencil", h).column("slope", projected);
    if (h < collapse) now.settled("the smallest stencil has been used");
    co_yield now;
  }
}

} // namespace tanzen::methods
