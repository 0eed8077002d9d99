#include "tanzen/methods/gradient/lbfgs_bounded.hpp"

#include "tanzen/methods/line/ray_minimum.hpp"

#include <algorithm>
#include <Eigen/LU>
#include <vector>

namespace tanzen::methods {
namespace {

/// What has a number for each pair remembered, or for each two, lives without the heap.
constexpr Index most_memory = 20, most_width = 2 * most_memory;
using Narrow = Eigen::Matrix<double, Eigen::Dynamic, 1, Eigen::ColMajor, most_width, 1>;
using Small = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::ColMajor, most_width, most_width>;

/// The model of the curvature, B = theta I - W M W', with W = [Y, theta S] (equation 3.2).
class CompactModel {
 public:
  CompactModel(Index n, Index memory) : memory_(memory), steps_(n, memory), changes_(n, memory) {}

  [[nodiscard]] double theta() const { return theta_; }
  /// Columns of W.
  [[nodiscard]] Index width() const { return 2 * count_; }
  void clear() {
    count_ = 0;
    theta_ = 1;
  }

  /// Takes in a step and the change of the gradient; skipped where the curvature along it is not positive.
  void update(const Vector& s, const Vector& y) {
    const double sy = s.dot(y);
    if (!(sy > std::numeric_limits<double>::epsilon() * y.squaredNorm())) return;
    if (count_ == memory_) {
      for (Index k = 0; k + 1 < count_; ++k) { // the oldest pair goes
        steps_.col(k) = steps_.col(k + 1);
        changes_.col(k) = changes_.col(k + 1);
      }
      const Index rest = count_ - 1;
      for (Small* products : {&steps_steps_, &steps_changes_, &changes_changes_}) {
        const Small kept = products->bottomRightCorner(rest, rest);
        products->topLeftCorner(rest, rest) = kept;
      }
    } else {
      ++count_;
      for (Small* products : {&steps_steps_, &steps_changes_, &changes_changes_})
        products->conservativeResize(count_, count_);
    }
    const Index last = count_ - 1;
    steps_.col(last) = s;
    changes_.col(last) = y;
    const auto steps = steps_.leftCols(count_), changes = changes_.leftCols(count_);
    steps_steps_.col(last).noalias() = steps.transpose() * s;
    steps_changes_.col(last).noalias() = steps.transpose() * y;
    Narrow crossed(count_);
    crossed.noalias() = changes.transpose() * s;
    steps_changes_.row(last) = crossed.transpose();
    changes_changes_.col(last).noalias() = changes.transpose() * y;
    steps_steps_.row(last) = steps_steps_.col(last).transpose();
    changes_changes_.row(last) = changes_changes_.col(last).transpose();
    theta_ = y.squaredNorm() / sy;
    find_middle();
  }

  /// The i-th row of W, as a column.
  void row(Index i, Narrow& w) const {
    w.resize(width());
    w.head(count_) = changes_.row(i).head(count_);
    w.tail(count_) = theta_ * steps_.row(i).head(count_);
  }

  /// W' v
  void transposed_times(const Vector& v, Narrow& product) const {
    product.resize(width());
    product.head(count_).noalias() = changes_.leftCols(count_).transpose() * v;
    product.tail(count_).noalias() = theta_ * (steps_.leftCols(count_).transpose() * v);
  }

  /// Adds W times `weights`, divided by `divisor`, to v.
  void add_times(const Narrow& weights, double divisor, Vector& v) const {
    const Narrow of_changes = weights.head(count_) / divisor, of_steps = theta_ * weights.tail(count_) / divisor;
    v.noalias() += changes_.leftCols(count_) * of_changes;
    v.noalias() += steps_.leftCols(count_) * of_steps;
  }

  /// W'W
  [[nodiscard]] Small products() const {
    Small all(width(), width());
    all << changes_changes_, theta_ * steps_changes_.transpose(), theta_ * steps_changes_,
        theta_ * theta_ * steps_steps_;
    return all;
  }

  /// M
  [[nodiscard]] const Small& middle() const { return middle_; }

 private:
  /// M is the inverse of [-D, L'; L, theta S'S] (equation 3.4).
  void find_middle() {
    const Small lower = steps_changes_.triangularView<Eigen::StrictlyLower>();
    Small inverse(width(), width());
    inverse.setZero();
    inverse.diagonal().head(count_) = -steps_changes_.diagonal();
    inverse.topRightCorner(count_, count_) = lower.transpose();
    inverse.bottomLeftCorner(count_, count_) = lower;
    inverse.bottomRightCorner(count_, count_) = theta_ * steps_steps_;
    middle_ = inverse.partialPivLu().inverse();
  }

  Index memory_;
  Index count_ = 0;
  double theta_ = 1;
  Matrix steps_, changes_;
  Small steps_steps_, steps_changes_, changes_changes_; ///< S'S, S'Y, Y'Y
  Small middle_;
};

/// A variable and how far along the projected path it meets its bound.
struct Breakpoint {
  double time;
  Index variable;
};

/// What both parts of an iteration work on.
struct Target {
  Vector point;            ///< the generalized Cauchy point, then the model's minimizer
  Narrow product;          ///< W' (point - x)
  Narrow descent;          ///< W' times what of -g does not leave the bounds at once
  std::vector<Index> free; ///< variables inside their bounds at the Cauchy point
  std::vector<Breakpoint> breakpoints;
  Vector direction;
};

/// The first minimizer of the model along the projection of x - t g (algorithm CP).
void find_cauchy_point(const CompactModel& model, const Bounds& bounds, const Vector& x, const Vector& g,
                       Target& target) {
  const Index n = x.size(), width = model.width();
  const Small& middle = model.middle();
  target.point = x;
  target.direction = -g;
  target.breakpoints.clear();
  target.free.clear();
  for (Index i = 0; i < n; ++i) {
    const double limit = g[i] < 0 ? bounds.upper()[i] : bounds.lower()[i];
    const double time = g[i] == 0 ? std::numeric_limits<double>::infinity() : (x[i] - limit) / g[i];
    if (time <= 0) {
      target.direction[i] = 0;
      continue;
    }
    if (std::isfinite(time)) target.breakpoints.push_back({time, i});
  }
  // A heap, as few of them are met before the minimizer.
  std::ranges::make_heap(target.breakpoints, std::greater<>(), &Breakpoint::time);

  Narrow p, w, gathered = Narrow::Zero(width);
  model.transposed_times(target.direction, p);
  target.descent = p;
  const double first = -target.direction.squaredNorm();
  double slope = first;
  double curvature = -model.theta() * first;
  if (width > 0) curvature -= p.dot(middle * p);
  const double least_curvature = std::numeric_limits<double>::epsilon() * curvature;
  double best = curvature > 0 ? -slope / curvature : std::numeric_limits<double>::infinity();
  double before = 0;
  while (!target.breakpoints.empty() && best >= target.breakpoints.front().time - before) {
    const auto [time, i] = target.breakpoints.front();
    std::ranges::pop_heap(target.breakpoints, std::greater<>(), &Breakpoint::time);
    target.breakpoints.pop_back();
    const double length = time - before;
    const double d = target.direction[i];
    target.point[i] = d > 0 ? bounds.upper()[i] : bounds.lower()[i];
    const double moved = target.point[i] - x[i];
    gathered += length * p;
    slope += length * curvature + g[i] * g[i] + model.theta() * g[i] * moved;
    curvature -= model.theta() * g[i] * g[i];
    if (width > 0) {
      model.row(i, w);
      slope -= g[i] * w.dot(middle * gathered);
      curvature -= 2 * g[i] * w.dot(middle * p) + g[i] * g[i] * w.dot(middle * w);
      p += g[i] * w;
    }
    curvature = std::max(curvature, least_curvature);
    target.direction[i] = 0;
    best = curvature > 0 ? -slope / curvature : 0;
    before = time;
  }
  best = std::isfinite(best) ? std::max(best, 0.0) : 0;
  for (Index i = 0; i < n; ++i) {
    if (target.direction[i] != 0) target.point[i] = x[i] + (before + best) * target.direction[i];
    // Free is what lies between its bounds at the Cauchy point, also where its slope is zero.
    if (bounds.lower()[i] < target.point[i] && target.point[i] < bounds.upper()[i]) target.free.push_back(i);
  }
  gathered += best * p;
  target.product = gathered;
}

/// From the Cauchy point to the model's minimizer over the free variables, cut at the bounds (section 5.1).
void minimize_over_free(const CompactModel& model, const Bounds& bounds, const Vector& x, const Vector& g,
                        Target& target) {
  if (target.free.empty() || model.width() == 0) return;
  const Index n = x.size();
  const Small& middle = model.middle();
  const double theta = model.theta();
  const Narrow weighted = middle * target.product;
  const bool all_free = static_cast<Index>(target.free.size()) == n;
  const auto is_free = [&](Index i) {
    return bounds.lower()[i] < target.point[i] && target.point[i] < bounds.upper()[i];
  };
  Vector& residual = target.direction; // of the free variables: the model's gradient at the Cauchy point
  residual = g + theta * (target.point - x);
  // W'W and W' times the residual over the free variables, which no pass over them has to find where all are free.
  Small crossed = model.products();
  Narrow gathered, w;
  if (all_free) {
    gathered = theta * target.product - target.descent - crossed * weighted;
  } else {
    const bool by_free = 2 * static_cast<Index>(target.free.size()) < n;
    if (by_free) crossed.setZero();
    model.add_times(weighted, -1, residual);
    for (Index i = 0; i < n; ++i) {
      const bool free = is_free(i);
      if (!free) residual[i] = 0;
      if (free != by_free) continue;
      model.row(i, w);
      crossed.noalias() += (by_free ? 1.0 : -1.0) * w * w.transpose();
    }
    model.transposed_times(residual, gathered);
  }
  const Small system = Small::Identity(model.width(), model.width()) - middle * crossed / theta;
  Narrow solved = system.partialPivLu().solve(middle * gathered);
  if (!solved.allFinite()) return;
  if (all_free) solved -= theta * weighted; // the residual lacks it still
  model.add_times(solved, theta, residual);
  residual /= -theta; // now the step
  double part = 1;
  for (const Index i : target.free) {
    const double limit = residual[i] > 0 ? bounds.upper()[i] : bounds.lower()[i];
    if (residual[i] != 0) part = std::min(part, (limit - target.point[i]) / residual[i]);
  }
  for (const Index i : target.free) target.point[i] += part * residual[i];
}

} // namespace

MethodCard LbfgsBounded::card() {
  return {.title = "limited-memory quasi-Newton within bounds",
          .family = "gradient",
          .source = "Byrd, Lu, Nocedal and Zhu, 1995",
          .limits = "by the generalized Cauchy point and a subspace step over the variables that are free",
          .summary = "The first choice for a smooth function with bounds, of few variables or very many.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true}};
}

void LbfgsBounded::settings(Settings& list) {
  list.add("memory", memory).between(1, most_memory).means("how many of the last steps are remembered");
  line.settings(list);
}

Search LbfgsBounded::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Bounds& bounds = evaluate.bounds();
  CompactModel model(n, memory);
  const auto line_search = make_line_search(line);
  Target target;
  target.free.reserve(static_cast<std::size_t>(n));
  target.breakpoints.reserve(static_cast<std::size_t>(n));
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), direction(n), s(n), y(n);
  double value = start.value;
  for (;;) {
    find_cauchy_point(model, bounds, x, g, target);
    minimize_over_free(model, bounds, x, g, target);
    bounds.project(target.point);
    direction = target.point - x;
    const double slope = g.dot(direction);
    const bool is_fresh = model.width() == 0;
    const double trial = is_fresh ? std::min(1.0, 1 / direction.norm()) : 1;
    // Without bounds in reach a step may be longer than to the target.
    const double longest = longest_feasible_step(bounds, x, direction);
    const LineStep step = line_search->find(evaluate, x, value, direction, slope, trial, longest);
    if (step.step == 0 && !is_fresh) {
      model.clear();
      continue;
    }
    if (step.step == 0) {
      co_yield Iteration(x, value).gradient(g, bounds).column("step", 0).stalled(no_lower_value);
      continue;
    }
    s = line_search->point - x;
    y = evaluate.last_gradient() - g;
    model.update(s, y);
    x.swap(line_search->point);
    g = evaluate.last_gradient();
    value = step.value;
    co_yield Iteration(x, value)
        .gradient(g, bounds)
        .column("step", step.step)
        .column("free", static_cast<double>(target.free.size()))
        .column("trials", static_cast<double>(step.trials));
  }
}

} // namespace tanzen::methods
