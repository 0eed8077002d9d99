#include "tanzen/analysis/stationary_points.hpp"

#include "stationary_checks.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/symbolic.hpp"
#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/problem/value_and_rows.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr Index most_points = 300; ///< beyond, they are hardly isolated

/// The equations grad f + J' y = 0, c - limit = 0 at a point and multipliers.
class Equations {
 public:
  explicit Equations(const Problem& problem)
      : parts_(problem.parts()), scalarization_(problem.scalarization()), worker_(problem.bundle()->worker()),
        limits_(parts_.constraints), n_(problem.dimension()) {
    for (Index k = 0; k < limits_.size(); ++k) limits_[k] = problem.constraints()[static_cast<std::size_t>(k)].lower;
  }

  Vector residual;
  Matrix matrix;    ///< its derivative: symmetric
  double scale = 1; ///< the size of what cancels in the residual

  [[nodiscard]] Index constraints() const { return limits_.size(); }

  /// False where something is no number.
  bool evaluate_at(const Vector& x, const Vector& y) {
    look(x);
    residual.resize(n_ + y.size());
    residual << gradient_ + rows_.transpose() * y, values_ - limits_;
    scale = 1 + gradient_.cwiseAbs().maxCoeff() + (rows_.transpose().cwiseAbs() * y.cwiseAbs()).sum() +
            limits_.cwiseAbs().sum();
    return residual.allFinite();
  }

  /// After `evaluate_at` the same point.
  bool derive(const Vector& x, const Vector& y) {
    const Index m = y.size();
    Vector weights = slopes_;
    weights.segment(parts_.objectives, m) += y;
    worker_->weighted_hessian(x, weights, hessian_);
    const Evaluation at(outputs_, parts_);
    if (scalarization_->bends(at, weights)) hessian_ += jacobian_.transpose() * weights.asDiagonal() * jacobian_;
    matrix.setZero(n_ + m, n_ + m);
    matrix.topLeftCorner(n_, n_) = hessian_;
    matrix.topRightCorner(n_, m) = rows_.transpose();
    matrix.bottomLeftCorner(m, n_) = rows_;
    return matrix.allFinite();
  }

  /// The multipliers that balance the gradient best.
  Vector multipliers_at(const Vector& x) {
    look(x);
    if (limits_.size() == 0 || !rows_.allFinite() || !gradient_.allFinite()) return Vector::Zero(limits_.size());
    return least_squares(rows_.transpose(), -gradient_);
  }

 private:
  void look(const Vector& x) {
    worker_->outputs(x, outputs_);
    worker_->jacobian(x, jacobian_);
    slopes_.resize(parts_.all());
    const Evaluation at(outputs_, parts_);
    scalarization_->slopes(at, slopes_);
    gradient_ = jacobian_.transpose() * slopes_;
    rows_ = jacobian_.middleRows(parts_.objectives, parts_.constraints);
    values_ = at.constraints();
  }

  PartCounts parts_;
  ScalarizationPointer scalarization_;
  std::unique_ptr<FunctionWorker> worker_;
  Vector limits_;
  Index n_;
  Vector outputs_, slopes_, gradient_, values_;
  Matrix jacobian_, rows_, hessian_;
};

/// What has been found so far, and the factor that divides it out: the product of 1 / |x - p|^2 + 1, in units of the
/// region's widths.
class Known {
 public:
  explicit Known(Vector widths) : widths_(std::move(widths)) {}

  void add(const Vector& point) { points_.push_back(point); }
  [[nodiscard]] std::size_t size() const { return points_.size(); }
  [[nodiscard]] bool has(const Vector& x, double near) const {
    return std::ranges::any_of(points_, [&](const Vector& p) { return are_one_point(x, p, widths_, near); });
  }
  [[nodiscard]] double factor(const Vector& x) const {
    double product = 1;
    for (const Vector& p : points_) product *= 1 / squared_distance(x, p) + 1;
    return product;
  }
  /// By what a Newton step is multiplied once they are divided out, by the formula of Sherman and Morrison.
  [[nodiscard]] double stretch(const Vector& x, const Vector& step) const {
    double slope = 0; // of the factor along the step, divided by it
    for (const Vector& p : points_) {
      const double squared = squared_distance(x, p);
      const double along = (x - p).cwiseQuotient(widths_).dot(step.cwiseQuotient(widths_));
      slope -= 2 * along / (squared * squared) / (1 / squared + 1);
    }
    const double divisor = 1 - slope;
    return std::abs(divisor) > 1e-8 ? 1 / divisor : 1;
  }

 private:
  [[nodiscard]] double squared_distance(const Vector& x, const Vector& p) const {
    return std::max((x - p).cwiseQuotient(widths_).squaredNorm(), 1e-300);
  }

  Vector widths_;
  std::vector<Vector> points_;
};

/// A search from one start: damped Newton steps until the equations hold, or no part of a step comes nearer.
class NewtonSearch {
 public:
  NewtonSearch(Equations& equations, const Box& box) : equations_(equations), widths_(box.width()) {}

  Vector x, y;

  bool find(const Vector& start, const Known& known) {
    constexpr int most_steps = 80;
    x = start;
    y = equations_.multipliers_at(x);
    if (!equations_.evaluate_at(x, y)) return false;
    for (int k = 0; k < most_steps; ++k) {
      if (equations_.residual.lpNorm<Eigen::Infinity>() <= 1e-13 * equations_.scale) return polish();
      if (!take_step(known)) return polish();
    }
    return polish();
  }

 private:
  [[nodiscard]] Vector newton_step() {
    if (!equations_.derive(x, y)) return {};
    return least_squares(equations_.matrix, -equations_.residual);
  }

  bool take_step(const Known& known) {
    constexpr double longest = 0.3; // of the region
    Vector step = newton_step();
    if (step.size() == 0 || !step.allFinite()) return false;
    const Index n = x.size();
    step *= known.stretch(x, step.head(n));
    const double length = step.head(n).cwiseQuotient(widths_).norm();
    if (length > longest) step *= longest / length;
    const double from = equations_.residual.norm() * known.factor(x);
    const Vector old_x = x, old_y = y;
    for (double part = 1; part > 1e-4; part *= 0.5) {
      x = old_x + part * step.head(n);
      y = old_y + part * step.tail(y.size());
      if (equations_.evaluate_at(x, y) && equations_.residual.norm() * known.factor(x) < (1 - 1e-4 * part) * from)
        return true;
    }
    x = old_x;
    y = old_y;
    (void)equations_.evaluate_at(x, y);
    return false;
  }

  /// The last digits by plain Newton steps. False where the equations do not hold.
  bool polish() {
    constexpr double holds = 1e-10;
    for (int k = 0; k < 3; ++k) {
      const Vector step = newton_step();
      if (step.size() == 0 || !step.allFinite()) break;
      const double before = equations_.residual.norm();
      const Vector old_x = x, old_y = y;
      x += step.head(x.size());
      y += step.tail(y.size());
      if (equations_.evaluate_at(x, y) && equations_.residual.norm() <= before) continue;
      x = old_x;
      y = old_y;
      (void)equations_.evaluate_at(x, y);
      break;
    }
    return equations_.residual.lpNorm<Eigen::Infinity>() <= holds * equations_.scale;
  }

  Equations& equations_;
  Vector widths_;
};

StationaryPoint described(const Problem& problem, const Vector& x, const Vector& y) {
  StationaryPoint found{.point = x, .value = problem.value(x), .multipliers = -y, .curvature = {}};
  const PointCheck checked = check_point(problem, x);
  const auto curvature =
      problem.constraints().empty() ? curvature_at(problem, x) : tangent_curvature(problem, x, checked);
  if (curvature) found.curvature = *curvature;
  return found;
}

/// Strictly within the bounds, and within the region but for rounding.
bool is_listed(const Problem& problem, const Box& region, const Vector& x) {
  const Vector slack = 1e-9 * region.width();
  const Bounds& bounds = problem.bounds();
  return (x.array() >= (region.lower - slack).array()).all() && (x.array() <= (region.upper + slack).array()).all() &&
         (x.array() > bounds.lower().array()).all() && (x.array() < bounds.upper().array()).all();
}

std::string completeness(const StationaryPoints& all) {
  const std::string count = counted(all.starts, "start");
  if (static_cast<Index>(all.points.size()) >= most_points)
    return fmt::format("not complete: the search ended at {} points, which are perhaps not isolated", most_points);
  if (all.points.empty()) return fmt::format("none was found from {}, which does not prove that there is none", count);
  return fmt::format(
      "not proved complete: {} were searched from until each led nowhere else, and the last new point came "
      "from number {}",
      count, all.last_new);
}

} // namespace

void check_for_stationary_points(const Problem& problem) {
  if (problem.objectives().size() > 1)
    throw ProblemError(fmt::format("stationary points are those of one objective, and {} has {}", problem.name(),
                                   problem.objectives().size()));
  for (const Constraint& row : problem.constraints()) {
    if (!row.is_equality())
      throw ProblemError(fmt::format("stationary points are found under equality constraints, and {} of {} is an "
                                     "inequality: write it with =, or leave it away",
                                     row.name, problem.name()));
  }
  if (problem.parts().constraints > problem.dimension())
    throw ProblemError(fmt::format("{} has {} and only {}: in general no point keeps them all", problem.name(),
                                   counted(problem.parts().constraints, "equality constraint"),
                                   counted(problem.dimension(), "variable")));
  if (problem.bundle()->derivatives() != Derivatives::hessian)
    throw ProblemError(fmt::format(
        "stationary points need exact second derivatives, and {} has none: write it as a formula", problem.name()));
}

StationaryPoints stationary_points(const Problem& given, const StationaryOptions& options) {
  const Problem problem = given.unheard().exact();
  check_for_stationary_points(problem);
  constexpr Index most_rounds = 16;
  constexpr double one_point = 1e-6, one_degenerate = 1e-3;
  const Index n = problem.dimension();
  const Box region = problem.region(), box = problem.sampling_box();
  const Index first = options.starts.value_or(60 + 20 * n);
  const Matrix starts = sobol_points(box, most_rounds * first, RandomStream(options.seed, {"stationary"}));
  Equations equations(problem);
  NewtonSearch search(equations, region);
  Known known(region.width());
  StationaryPoints all;
  all.starts = first;
  for (Index k = 0; k < all.starts && static_cast<Index>(known.size()) < most_points; ++k) {
    const Vector start = k == 0 && problem.start() ? *problem.start() : Vector(starts.col(k));
    while (search.find(start, known) && static_cast<Index>(known.size()) < most_points) {
      if (known.has(search.x, one_point)) break;
      StationaryPoint found = described(problem, search.x, search.y);
      // Where the curvature vanishes a point is known to fewer digits.
      const bool is_degenerate = found.curvature.kind == PointKind::degenerate;
      if (is_degenerate && known.has(search.x, one_degenerate)) break;
      known.add(search.x);
      if (is_listed(problem, region, search.x)) {
        all.points.push_back(std::move(found));
        all.last_new = k + 1;
      } else {
        ++all.outside;
      }
    }
    const bool was_late = all.last_new > all.starts / 2;
    if (k + 1 == all.starts && was_late && 2 * all.starts <= most_rounds * first) all.starts *= 2;
  }
  std::ranges::stable_sort(all.points, {}, &StationaryPoint::value);
  all.how = completeness(all);
  return all;
}

std::vector<std::string> stationary_equations(const Problem& problem) {
  const std::optional<Expressions> known = value_and_rows(problem);
  if (!known)
    throw ProblemError(fmt::format("{} is no expression: its equations cannot be written down", problem.name()));
  const Expressions& parts = *known;
  std::vector<std::string> names = problem.variable_names();
  const auto is_taken = [&](const std::string& name) { return std::ranges::find(names, name) != names.end(); };
  const std::string stem = is_taken("m1") ? "multiplier" : "m";
  std::string lagrangian = to_formula(parts[0]);
  std::vector<std::string> conditions;
  for (std::size_t k = 0; k < problem.constraints().size(); ++k) {
    const std::string row = to_formula(parts[static_cast<Index>(k) + 1]);
    const double limit = problem.constraints()[k].lower;
    const std::string name = fmt::format("{}{}", stem, k + 1);
    lagrangian += fmt::format(" - {}*({} - ({}))", name, row, number_text(limit));
    conditions.push_back(fmt::format("{} = {}", row, number_text(limit)));
    names.push_back(name);
  }
  const Problem whole = Problem::from_formula(lagrangian, names);
  std::vector<std::string> lines{to_formula(simplified(*whole.expression()))};
  for (Index i = 0; i < problem.dimension(); ++i)
    lines.push_back(to_formula(partial_derivative(*whole.expression(), i)) + " = 0");
  std::ranges::move(conditions, std::back_inserter(lines));
  return lines;
}

} // namespace tanzen
