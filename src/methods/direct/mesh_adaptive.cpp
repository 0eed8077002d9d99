#include "tanzen/methods/direct/mesh_adaptive.hpp"

#include "tanzen/search/standing.hpp"

#include "box_step.hpp"
#include "interpolation_model.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <optional>
#include <utility>
#include <vector>

namespace tanzen::methods {
namespace {

/// The directions of a poll, all on the mesh: the columns |q|^2 I - 2 q q^T of a whole-numbered q, which are orthogonal
/// to the last bit, and their opposites (Abramson, Audet, Dennis and Le Digabel, 2009, section 3); or of each pair the
/// one on the side that promises more, and the opposite of their sum (Audet, Ianni, Le Digabel and Tribes, 2014,
/// section 3.2).
class Poll {
 public:
  Poll(Index n, bool is_whole)
      : directions_(n, is_whole ? 2 * n : n + 1), axis_(n), whole_(n), last_(Vector::Zero(n)), is_whole_(is_whole) {}

  /// `steps` is how many meshes wide the frame is. `promising` is a way that ought to lead down; zero where none is
  /// known.
  void turn(double steps, const Vector& promising, RandomStream& random) {
    do random.fill_normal(axis_);
    while (axis_.squaredNorm() == 0);
    axis_.normalize();
    round_to_whole(steps);
    const double squared = whole_.squaredNorm();
    const Index n = axis_.size();
    const Vector& down = promising.isZero(0) ? last_ : promising;
    for (Index j = 0; j < n; ++j) {
      auto column = directions_.col(j);
      column = -2 * whole_[j] * whole_;
      column[j] += squared;
      if (is_whole_)
        directions_.col(n + j) = -column;
      else if (column.dot(down) < 0)
        column = -column;
    }
    if (!is_whole_) // as long as the others, on the mesh
      directions_.col(n) =
          (-directions_.leftCols(n).rowwise().sum() / std::sqrt(static_cast<double>(n))).array().round();
    directions_ /= steps;
  }

  [[nodiscard]] Index size() const { return directions_.cols(); }
  [[nodiscard]] auto direction(Index k) const { return directions_.col(k); }
  /// Directions near the last success come first (Abramson, Audet, Dennis and Le Digabel, 2009).
  [[nodiscard]] double promise(Index k) const { return directions_.col(k).dot(last_); }
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

  Matrix directions_;
  Vector axis_, whole_, last_;
  bool is_whole_;
};

/// Quadratic models through the points visited about the best one (Conn and Le Digabel, 2013), in units of the region.
class LocalModel {
 public:
  LocalModel(Index n, const Vector& scale)
      : scale_(scale), most_(std::min((n + 1) * (n + 2) / 2, std::max(2 * n + 1, Index{60}))), model_(n, most_),
        step_(n), box_step_(n), points_(n, 8 * most_), values_(8 * most_) {}

  void note(const Vector& x, double value) {
    if (!std::isfinite(value)) return;
    points_.col(next_) = x.cwiseQuotient(scale_);
    values_[next_] = value;
    next_ = (next_ + 1) % values_.size();
    count_ = std::min(count_ + 1, values_.size());
  }
  /// A model of the points within twice the frame; false where they are too few for one.
  bool build(const Vector& centre, double frame) {
    centre_ = centre.cwiseQuotient(scale_);
    distances_ = (points_.leftCols(count_).colwise() - centre_).cwiseAbs().colwise().maxCoeff();
    near_.clear();
    for (Index k = 0; k < count_; ++k) {
      if (distances_[k] <= 2 * frame) near_.push_back(k);
    }
    std::ranges::sort(near_, [&](Index a, Index b) {
      return distances_[a] != distances_[b] ? distances_[a] < distances_[b] : values_[a] < values_[b];
    });
    if (near_.size() > static_cast<std::size_t>(most_)) near_.resize(static_cast<std::size_t>(most_));
    is_there_ = static_cast<Index>(near_.size()) > centre.size() && distances_[near_.front()] == 0;
    if (is_there_) model_.begin(points_(Eigen::all, near_), values_(near_));
    is_there_ = is_there_ && model_.size() > centre.size() && model_.gradient().allFinite();
    return is_there_;
  }
  /// The way down of the model; zero without one.
  void down(Vector& direction) const {
    if (is_there_)
      direction = -model_.gradient();
    else
      direction.setZero();
  }
  /// The model's best step within the frame and the bounds, in units of the region.
  const Vector& best_step(const Vector& lower, const Vector& upper, double frame) {
    box_step_.find(model_, frame, lower.cwiseMax(-frame), upper.cwiseMin(frame), step_);
    return step_;
  }
  /// The change that it predicts for a step; NaN without a model.
  double predicted(const Vector& step) {
    if (!is_there_) return std::numeric_limits<double>::quiet_NaN();
    model_.consider(step);
    return model_.predicted_change();
  }

 private:
  Vector scale_;
  Index most_;
  InterpolationModel model_;
  Vector step_, centre_, distances_;
  BoxStep box_step_;
  Matrix points_; ///< the last ones visited, a ring
  Vector values_;
  Index next_ = 0, count_ = 0;
  std::vector<Index> near_;
  bool is_there_ = false;
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
  return {.title = "mesh adaptive direct search with orthogonal directions",
          .family = "derivative-free",
          .source = "Audet and Dennis, 2006; Abramson, Audet, Dennis and Le Digabel, 2009; n + 1 directions and "
                    "models: Audet, Ianni, Le Digabel and Tribes, 2014; inequalities: Audet and Dennis, 2009",
          .limits = "points outside are moved onto them",
          .summary = "Functions with kinks, steps or holes where no model holds, of up to some tens of variables.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .inequalities = true}};
}

void MeshAdaptive::settings(Settings& list) {
  list.add("step", step).positive().means("first frame, as a part of the region's width");
  list.add("directions", directions, {{"fewest", Directions::fewest}, {"all", Directions::all}})
      .means("of a poll: n + 1, on the side that promises more, or 2 n");
  list.add("models", models).means("quadratic models of the points visited propose a point and the order of the poll");
  list.add("collapse", collapse).positive().means("the frame has shrunk to nothing when it is below this");
  list.add("patience", patience)
      .at_least(1)
      .at_most(1000)
      .means("times that it must, one after the other without a better point, before the search is done");
}

Search MeshAdaptive::search(Evaluator& evaluate, Start start) const {
  constexpr Index secondary_directions = 2, most_modelled = 50;
  constexpr double trigger = 0.1; // of the feasible value's size
  constexpr double again = 0.1;   // of the first frame, to shrink from once more
  const Index n = start.point.size();
  const Vector scale = evaluate.problem().sampling_box().width();
  Poll poll(n, directions == Directions::all);
  Barrier barrier(evaluate.feasibility());
  if (!barrier.see(start.point, {start.value, start.violation}))
    barrier.infeasible.take(start.point, {start.value, std::numeric_limits<double>::infinity()});
  std::optional<LocalModel> model;
  if (models && n > 1 && n <= most_modelled && evaluate.part_counts().constraints == 0) {
    model.emplace(n, scale);
    model->note(start.point, start.value);
  }
  Vector x(n), trial(n), direction(n), promising = Vector::Zero(n), step_to(n);
  std::vector<Index> order(static_cast<std::size_t>(poll.size()));
  std::vector<double> promise(order.size());
  double frame = step;
  bool gained = true;
  Index in_vain = 0; // frames shrunk to nothing, in a row
  // Whether a point dominates.
  const auto is_better = [&](const Vector& at) {
    const Standing standing = standing_at(evaluate, at);
    if (model) model->note(at, standing.value);
    return barrier.see(at, standing);
  };
  // Whether one of the first `count` points of the poll around a centre dominates.
  const auto succeeds = [&](const Vector& centre, Index count, bool is_modelled) {
    x = centre; // which a success moves
    std::iota(order.begin(), order.end(), Index{0});
    for (const Index k : order) {
      direction = frame * poll.direction(k);
      promise[static_cast<std::size_t>(k)] = is_modelled ? -model->predicted(direction) : poll.promise(k);
    }
    std::ranges::sort(order, [&](Index a, Index b) {
      const double first = promise[static_cast<std::size_t>(a)], second = promise[static_cast<std::size_t>(b)];
      return first != second ? first > second : a < b;
    });
    for (Index k = 0; k < count; ++k) {
      direction = poll.direction(order[static_cast<std::size_t>(k)]);
      trial = x + frame * scale.cwiseProduct(direction);
      evaluate.bounds().project(trial);
      if (trial == x || !is_better(trial)) continue;
      poll.note_success(direction);
      return true;
    }
    return false;
  };
  // Whether the point that the model proposes, on the mesh, does.
  const auto model_succeeds = [&](const Vector& centre, double mesh) {
    x = centre;
    const Vector lower = (evaluate.bounds().lower() - x).cwiseQuotient(scale);
    const Vector upper = (evaluate.bounds().upper() - x).cwiseQuotient(scale);
    step_to = mesh * (model->best_step(lower, upper, frame) / mesh).array().round().matrix();
    trial = x + scale.cwiseProduct(step_to);
    evaluate.bounds().project(trial);
    if (trial == x || !is_better(trial)) return false;
    poll.note_success(step_to);
    return true;
  };
  for (;;) {
    const double relative = std::min(1.0, frame / step);
    const double mesh = relative * relative; // finer than the frame, whose directions become dense so
    const double steps = std::max(1.0, std::round(relative / mesh));
    const bool has_model = model && barrier.feasible.is_there && model->build(barrier.feasible.x, frame);
    if (model) model->down(promising);
    poll.turn(steps, promising, start.random);
    const double size = barrier.feasible.is_there ? std::abs(barrier.feasible.standing.value) : 0;
    const bool infeasible_first = barrier.prefers_infeasible(trigger * std::max(1.0, size));
    const auto& first = infeasible_first ? barrier.infeasible : barrier.feasible;
    const auto& second = infeasible_first ? barrier.feasible : barrier.infeasible;
    const bool dominated = (has_model && model_succeeds(first.x, frame / steps)) ||
                           succeeds(first.x, poll.size(), has_model) ||
                           (second.is_there && succeeds(second.x, secondary_directions, false));
    const bool improved = !dominated && barrier.improve();
    if (dominated)
      frame = std::min(2 * frame, std::max(step, 1.0));
    else if (!improved)
      frame *= 0.5;
    const Centre& best = barrier.best();
    Iteration now(best.x, best.standing.value);
    now.violation(best.standing.violation).column("frame", frame);
    gained = gained || dominated || improved;
    if (frame < collapse) {
      in_vain = gained ? 0 : in_vain + 1;
      gained = false;
      frame = again * step;
    }
    if (in_vain >= patience && barrier.feasible.is_there)
      now.settled("the frame has become too small to matter, each time");
    if (in_vain >= patience && !barrier.feasible.is_there)
      now.infeasible("no poll of the finest frames breaks the constraints less");
    co_yield now;
  }
}

} // namespace tanzen::methods
