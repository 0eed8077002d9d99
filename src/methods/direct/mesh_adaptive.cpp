#include "tanzen/methods/direct/mesh_adaptive.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

namespace tanzen::methods {
namespace {

/// The 2 n directions of a poll, all on the mesh: the columns |q|^2 I - 2 q q^T of a whole-numbered q, which are
/// orthogonal to the last bit, and their opposites (Abramson, Audet, Dennis and Le Digabel, 2009, section 3).
class Poll {
 public:
  explicit Poll(Index n)
      : directions_(n, n), axis_(n), whole_(n), last_(Vector::Zero(n)), order_(static_cast<std::size_t>(2 * n)) {}

  /// `steps` is how many meshes wide the frame is.
  void turn(double steps, RandomStream& random) {
    do random.fill_normal(axis_);
    while (axis_.squaredNorm() == 0);
    axis_.normalize();
    round_to_whole(steps);
    const double squared = whole_.squaredNorm();
    for (Index j = 0; j < axis_.size(); ++j) {
      directions_.col(j) = -2 * whole_[j] * whole_;
      directions_(j, j) += squared;
    }
    directions_ /= steps;
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
  /// The longest whole-numbered vector about in the axis' direction whose square is at most `most`, which is at
  /// least 1.
  void round_to_whole(double most) {
    double length = std::sqrt(most) + 0.5 * std::sqrt(static_cast<double>(axis_.size()));
    do {
      whole_ = (length * axis_).array().round();
      length *= 0.99;
    } while (whole_.squaredNorm() > most);
    if (whole_.squaredNorm() > 0) return;
    Index longest = 0;
    axis_.cwiseAbs().maxCoeff(&longest);
    whole_[longest] = 1;
  }
  static double sign(Index k) { return k % 2 == 0 ? 1 : -1; }
  [[nodiscard]] double along_last(Index k) const { return directions_.col(k / 2).dot(last_); }

  Matrix directions_;
  Vector axis_, whole_, last_;
  std::vector<Index> order_;
};

} // namespace

MethodCard MeshAdaptive::card() {
  return {.title = "mesh adaptive direct search with orthogonal directions",
          .family = "derivative-free",
          .source = "Audet and Dennis, 2006; Abramson, Audet, Dennis and Le Digabel, 2009",
          .limits = "points outside are moved onto them",
          .summary = "Functions with kinks, steps or holes where no model holds, of up to some tens of variables.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
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
    if (frame < collapse) now.settled("the frame has become too small to matter");
    co_yield now;
  }
}

} // namespace tanzen::methods
