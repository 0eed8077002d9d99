#include "tanzen/methods/direct/mesh_adaptive.hpp"

#include "tanzen/search/standing.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>
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

/// A point that polls go around.
struct Centre {
  Vector x;
  Standing standing;
  bool is_there = false;

  void take(const Vector& point, const Standing& at) {
    x = point;
    standing = at;
    is_there = true;
  }
};

/// The progressive barrier (Audet and Dennis, 2009, sections 2 and 3): the best feasible point, and the lowest of those
/// whose violation is below a threshold that only falls. Without constraints there is the first alone.
class Barrier {
 public:
  explicit Barrier(double tolerance) : tolerance_(tolerance) {}

  Centre feasible, infeasible;

  /// Shows it a point; whether that dominates one of the two.
  bool see(const Vector& x, const Standing& at) {
    if (!std::isfinite(at.value)) return false;
    if (at.violation <= tolerance_) {
      if (feasible.is_there && at.value >= feasible.standing.value) return false;
      feasible.take(x, at);
      return true;
    }
    if (!infeasible.is_there) {
      infeasible.take(x, at);
      return !feasible.is_there;
    }
    const Standing& present = infeasible.standing;
    const bool dominates = at.value <= present.value && at.violation <= present.violation &&
                           (at.value < present.value || at.violation < present.violation);
    if (dominates) {
      infeasible.take(x, at);
      improving_.is_there = false;
      return true;
    }
    if (at.violation < present.violation && (!improving_.is_there || at.value < improving_.standing.value))
      improving_.take(x, at);
    return false;
  }
  /// At the end of an iteration without a dominating point: whether one of a smaller violation takes over.
  bool improve() {
    if (!improving_.is_there) return false;
    std::swap(infeasible, improving_);
    improving_.is_there = false;
    return true;
  }
  /// Whether polls go around the infeasible point in the first place: it is lower by more than `trigger` (section 3.2).
  [[nodiscard]] bool prefers_infeasible(double trigger) const {
    return infeasible.is_there && (!feasible.is_there || feasible.standing.value - trigger > infeasible.standing.value);
  }
  /// What stands for the search: the feasible one, if there is one.
  [[nodiscard]] const Centre& best() const { return feasible.is_there ? feasible : infeasible; }

 private:
  double tolerance_;
  Centre improving_;
};

} // namespace

MethodCard MeshAdaptive::card() {
  return {
      .title = "mesh adaptive direct search with orthogonal directions",
      .family = "derivative-free",
      .source =
          "Audet and Dennis, 2006; Abramson, Audet, Dennis and Le Digabel, 2009; inequalities: Audet and Dennis, 2009",
      .limits = "points outside are moved onto them",
      .summary = "Functions with kinks, steps or holes where no model holds, of up to some tens of variables.",
      .needs = Derivatives::none,
      .able = {.bounds = true, .inequalities = true}};
}

void MeshAdaptive::settings(Settings& list) {
  list.add("step", step).positive().means("first frame, as a part of the region's width");
  list.add("collapse", collapse).positive().means("done when the frame is below this");
}

Search MeshAdaptive::search(Evaluator& evaluate, Start start) const {
  constexpr Index secondary_directions = 2;
  constexpr double trigger = 0.1; // of the feasible value's size
  const Index n = start.point.size();
  const Vector scale = evaluate.problem().sampling_box().width();
  Poll poll(n);
  Barrier barrier(evaluate.feasibility());
  if (!barrier.see(start.point, {start.value, start.violation}))
    barrier.infeasible.take(start.point, {start.value, std::numeric_limits<double>::infinity()});
  Vector x(n), trial(n), direction(n);
  double frame = step;
  // Whether one of the first `count` points of the poll around a centre dominates.
  const auto succeeds = [&](const Vector& centre, Index count) {
    x = centre; // which a success moves
    for (Index k = 0; k < count; ++k) {
      poll.direction(k, direction);
      trial = x + frame * scale.cwiseProduct(direction);
      evaluate.bounds().project(trial);
      if (trial == x || !barrier.see(trial, standing_at(evaluate, trial))) continue;
      poll.note_success(direction);
      return true;
    }
    return false;
  };
  for (;;) {
    const double relative = std::min(1.0, frame / step);
    const double mesh = relative * relative; // finer than the frame, whose directions become dense so
    poll.turn(std::max(1.0, std::round(relative / mesh)), start.random);
    const double size = barrier.feasible.is_there ? std::abs(barrier.feasible.standing.value) : 0;
    const bool infeasible_first = barrier.prefers_infeasible(trigger * std::max(1.0, size));
    const auto& first = infeasible_first ? barrier.infeasible : barrier.feasible;
    const auto& second = infeasible_first ? barrier.feasible : barrier.infeasible;
    const bool dominated =
        succeeds(first.x, poll.size()) || (second.is_there && succeeds(second.x, secondary_directions));
    const bool improved = !dominated && barrier.improve();
    if (dominated)
      frame = std::min(2 * frame, std::max(step, 1.0));
    else if (!improved)
      frame *= 0.5;
    const Centre& best = barrier.best();
    Iteration now(best.x, best.standing.value);
    now.violation(best.standing.violation).column("frame", frame);
    if (frame < collapse && barrier.feasible.is_there) now.settled("the frame has become too small to matter");
    if (frame < collapse && !barrier.feasible.is_there)
      now.infeasible("no poll of the finest frames breaks the constraints less");
    co_yield now;
  }
}

} // namespace tanzen::methods
