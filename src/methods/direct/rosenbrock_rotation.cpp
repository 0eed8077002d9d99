#include "tanzen/methods/direct/rosenbrock_rotation.hpp"

#include <cmath>
#include <vector>

namespace tanzen::methods {
namespace {

/// Orthogonal axes that turn into the progress made along them.
class TurningAxes {
 public:
  explicit TurningAxes(Index n) : axes_(Matrix::Identity(n, n)), next_(n, n) {}

  [[nodiscard]] auto operator[](Index i) const { return axes_.col(i); }

  /// Gram and Schmidt's process on the sums of progress from the i-th axis on; an axis without any stays as it is.
  void turn(const Vector& progress) {
    const Index n = axes_.cols();
    for (Index i = 0; i < n; ++i) {
      next_.col(i).setZero();
      for (Index k = i; k < n; ++k) next_.col(i) += progress[k] * axes_.col(k);
      if (progress[i] == 0) next_.col(i) = axes_.col(i);
    }
    for (Index i = 0; i < n; ++i) {
      const double before = next_.col(i).norm();
      for (int twice = 0; twice < 2; ++twice) {
        for (Index k = 0; k < i; ++k) next_.col(i) -= next_.col(k).dot(next_.col(i)) * next_.col(k);
      }
      const double left = next_.col(i).norm();
      if (!(left > 1e-10 * before)) { // dependent on the others: the axis that they miss
        complete(i);
        continue;
      }
      next_.col(i) /= left;
    }
    axes_ = next_;
  }

 private:
  void complete(Index i) {
    for (Index k = 0; k < axes_.cols(); ++k) {
      next_.col(i) = axes_.col(k);
      for (int twice = 0; twice < 2; ++twice) {
        for (Index j = 0; j < i; ++j) next_.col(i) -= next_.col(j).dot(next_.col(i)) * next_.col(j);
      }
      const double left = next_.col(i).norm();
      if (left * left * static_cast<double>(axes_.cols()) < 0.5) continue;
      next_.col(i) /= left;
      return;
    }
  }

  Matrix axes_, next_;
};

} // namespace

MethodCard RosenbrockRotation::card() {
  return {.title = "search along axes that turn into the direction of progress",
          .family = "derivative-free",
          .source = "Rosenbrock, 1960",
          .limits = "points outside are moved onto them",
          .summary = "Curved valleys of a few variables without derivatives; the classic that the valley was made for.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void RosenbrockRotation::settings(Settings& list) {
  list.add("step", step).positive().means("first step, as a part of the region's width");
  list.add("collapse", collapse).positive().means("done when all steps are below this");
}

Search RosenbrockRotation::search(Evaluator& evaluate, Start start) const {
  constexpr double longer = 3, reversed = -0.5; // the paper's
  const Index n = start.point.size();
  const Vector scale = evaluate.problem().sampling_box().width();
  TurningAxes axes(n);
  Vector x = start.point, trial(n), progress = Vector::Zero(n), steps = Vector::Constant(n, step);
  std::vector<char> succeeded(static_cast<std::size_t>(n), 0), failed(static_cast<std::size_t>(n), 0);
  double value = start.value;
  for (;;) {
    for (Index i = 0; i < n; ++i) {
      const auto place = static_cast<std::size_t>(i);
      trial = x + steps[i] * scale.cwiseProduct(axes[i]);
      evaluate.bounds().project(trial);
      const bool moves = trial != x;
      const double found = moves ? evaluate(trial) : value;
      if (moves && found <= value && std::isfinite(found)) {
        progress[i] += steps[i];
        // On a plateau an equal value is a success, but no reason for longer steps.
        if (found < value)
          steps[i] = std::copysign(std::min(longer * std::abs(steps[i]), 1.0), steps[i]);
        else
          steps[i] *= reversed;
        x.swap(trial);
        value = found;
        succeeded[place] = 1;
      } else {
        steps[i] *= reversed;
        if (succeeded[place] != 0) failed[place] = 1;
      }
    }
    const bool all_failed = std::ranges::all_of(failed, [](char flag) { return flag != 0; });
    if (all_failed) {
      axes.turn(progress);
      progress.setZero();
      std::ranges::fill(succeeded, char{0});
      std::ranges::fill(failed, char{0});
    }
    const double longest = steps.cwiseAbs().maxCoeff();
    Iteration now(x, value);
    now.column("step", longest);
    if (longest < collapse) now.settled("the steps have become too short to matter");
    co_yield now;
  }
}

} // namespace tanzen::methods
