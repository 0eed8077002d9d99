#include "tanzen/methods/direct/mesh_adaptive.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

namespace tanzen::methods {
namespace {

/// The 2 n directions of a poll: columns of a Householder matrix, rounded to the mesh, and their opposites.
class Poll {
 public:
  explicit Poll(Index n)
      : directions_(n, n), axis_(n), last_(Vector::Zero(n)), order_(static_cast<std::size_t>(2 * n)) {}

  /// `steps` is how many meshes wide the frame is.
  void turn(double steps, RandomStream& random) {
    do random.fill_normal(axis_);
    while (axis_.squaredNorm() == 0);
    axis_.normalize();
    for (Index j = 0; j < axis_.size(); ++j) {
      directions_.col(j) = -2 * axis_[j] * axis_;
      directions_(j, j) += 1;
      directions_.col(j) *= steps / directions_.col(j).cwiseAbs().maxCoeff();
    }
    directions_ = directions_.array().round() / steps;
    std::iota(order_.begin(), order_.end(), Index{0});
    // Directions near the last success come first (Abramson, Audet, Dennis and Le Digabel, 2009).
    std::ranges::sort(order_, [&](Index a, Index b) {
      const double first = sign(a) * along_last(a), second = sign(b) * along_last(b);
      return first != second ? first > second : a < b;
    });
  }

  [[nodiscard]] Index size() const { return static_cast<Index>(order_.size()); }
  void direction(Index k, Vector& direction) const {
    const Index place = order_[static_cast<std::size_t>(k)];
    direction = sign(place) * directions_.col(place / 2);
  }
  void note_success(const Vector& direction) { last_ = direction; }

 private:
  static double sign(Index k) { return k % 2 == 0 ? 1 : -1; }
  [[nodiscard]] double along_last(Index k) const { return directions_.col(k / 2).dot(last_); }

  Matrix directions_;
  Vector axis_, last_;
  std::vector<Index> order_;
};

} // namespace

MethodCard MeshAdaptive::card() {
  return {.title = "mesh adaptive direct search with orthogonal directions",
          .family = "derivative-free",
          .source = "Audet and Dennis, 2006; Abramson, Audet, Dennis and Le Digabel, 2009",
          .bounds = "points outside are moved onto them",
          .summary = "Functions with kinks, steps or holes where no model holds, of up to some tens of variables.",
          .needs = Derivatives::none};
}

void MeshAdaptive::settings(Settings& list) {
  list.add("step", step).positive().means("first frame, as a part of the region's width");
  list.add("collapse", collapse).positive().means("done when the frame is below this");
}

Search MeshAdaptive::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Vector scale = evaluate.problem().sampling_box().width();
  Poll poll(n);
  Vector x = start.point, trial(n), direction(n);
  double value = start.value, frame = step;
  for (;;) {
    const double relative = std::min(1.0, frame / step);
    const double mesh = relative * relative; // finer than the frame, whose directions become dense so
    poll.turn(std::max(1.0, std::round(relative / mesh)), start.random);
    bool is_better = false;
    for (Index k = 0; k < poll.size() && !is_better; ++k) {
      poll.direction(k, direction);
      trial = x + frame * scale.cwiseProduct(direction);
      evaluate.bounds().project(trial);
      if (trial == x) continue;
      const double found = evaluate(trial);
      is_better = found < value;
      if (!is_better) continue;
      x.swap(trial);
      value = found;
      poll.note_success(direction);
    }
    frame = is_better ? std::min(2 * frame, std::max(step, 1.0)) : 0.5 * frame;
    Iteration now(x, value);
    now.column("frame", frame);
    if (frame < collapse) now.finished("the frame has become too small to matter");
    co_yield now;
  }
}

} // namespace tanzen::methods
