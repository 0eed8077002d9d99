#include "tanzen/methods/gradient/lbfgs_bounded.hpp"

#include "tanzen/methods/line/descent_step.hpp"

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
    } else {
      ++count_;
    }
    steps_.col(count_ - 1) = s;
    changes_.col(count_ - 1) = y;
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

  /// M
  [[nodiscard]] const Small& middle() const { return middle_; }

 private:
  /// M is the inverse of [-D, L'; L, theta S'S] (equation 3.4).
  void find_middle() {
    const auto steps = steps_.leftCols(count_);
    const Small sy = steps.transpose().lazyProduct(changes_.leftCols(count_));
    const Small lower = sy.triangularView<Eigen::StrictlyLower>();
    Small inverse(width(), width());
    inverse.setZero();
    inverse.diagonal().head(count_) = -sy.diagonal();
    inverse.topRightCorner(count_, count_) = lower.transpose();
    inverse.bottomLeftCorner(count_, count_) = lower;
    inverse.bottomRightCorner(count_, count_) = theta_ * steps.transpose().lazyProduct(steps);
    middle_ = inverse.partialPivLu().inverse();
  }

  Index memory_;
  Index count_ = 0;
  double theta_ = 1;
  Matrix steps_, changes_;
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
  std::ranges::sort(target.breakpoints, {}, &Breakpoint::time);

  Narrow p, w, gathered = Narrow::Zero(width);
  model.transposed_times(target.direction, p);
  const double first = -target.direction.squaredNorm();
  double slope = first;
  double curvature = -model.theta() * first;
  if (width > 0) curvature -= p.dot(middle * p);
  const double least_curvature = std::numeric_limits<double>::epsilon() * curvature;
  double best = curvature > 0 ? -slope / curvature : std::numeric_limits<double>::infinity();
  double before = 0;
  std::size_t next = 0;
  while (next < target.breakpoints.size() && best >= target.breakpoints[next].time - before) {
    const auto [time, i] = target.breakpoints[next++];
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
  const Index width = model.width();
  if (target.free.empty() || width == 0) return;
  const Small& middle = model.middle();
  const double theta = model.theta();
  const Narrow weighted = middle * target.product;
  Narrow w, gathered = Narrow::Zero(width);
  Small crossed = Small::Zero(width, width);
  Vector& residual = target.direction; // of the free variables: the model's gradient at the Cauchy point
  for (const Index i : target.free) {
    model.row(i, w);
    residual[i] = g[i] + theta * (target.point[i] - x[i]) - w.dot(weighted);
    gathered += residual[i] * w;
    crossed.noalias() += w * w.transpose();
  }
  const Small system = Small::Identity(width, width) - middle * crossed / theta;
  const Narrow solved = system.partialPivLu().solve(middle * gathered);
  if (!solved.allFinite()) return;
  double part = 1;
  for (const Index i : target.free) {
    model.row(i, w);
    residual[i] = -(residual[i] + w.dot(solved) / theta) / theta; // now the step
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
  wolfe.settings(list);
}

Search LbfgsBounded::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  const Bounds& bounds = evaluate.bounds();
  CompactModel model(n, memory);
  WolfeSearch line_search;
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
    const LineStep step = line_search.find(evaluate, x, value, direction, slope, trial, wolfe, longest);
    if (step.step == 0 && !is_fresh) {
      model.clear();
      continue;
    }
    if (step.step == 0) {
      co_yield Iteration(x, value)
          .gradient_norm(bounds.projected_gradient_norm(x, g))
          .column("step", 0)
          .stalled(no_lower_value);
      continue;
    }
    s = line_search.point - x;
    y = evaluate.last_gradient() - g;
    model.update(s, y);
    x.swap(line_search.point);
    g = evaluate.last_gradient();
    value = step.value;
    co_yield Iteration(x, value)
        .gradient_norm(bounds.projected_gradient_norm(x, g))
        .column("step", step.step)
        .column("free", static_cast<double>(target.free.size()))
        .column("trials", static_cast<double>(step.trials));
  }
}

} // namespace tanzen::methods
