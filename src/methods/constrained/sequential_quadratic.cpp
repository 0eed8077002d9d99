#include "tanzen/methods/constrained/sequential_quadratic.hpp"

#include "tanzen/methods/constrained/quadratic_program.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/symmetric_eigen.hpp"

#include "constrained_point.hpp"
#include "damped_model.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// The exact Hessian of the Lagrangian with its curvatures turned positive, and none far below the largest.
class ExactModel {
 public:
  explicit ExactModel(Index n) : eigen_(n) {}

  const Matrix& at(Evaluator& evaluate, ConstrainedPoint& here, const Vector& multipliers) {
    here.hessian(evaluate, multipliers, matrix_);
    if (!matrix_.allFinite()) return matrix_.setIdentity(here.x.size(), here.x.size());
    eigen_.compute(matrix_);
    const double largest = eigen_.values().cwiseAbs().maxCoeff();
    const Vector curvatures = eigen_.values().cwiseAbs().cwiseMax(1e-8 * std::max(largest, 1e-8));
    if ((curvatures - eigen_.values()).cwiseAbs().maxCoeff() > 0)
      matrix_ = eigen_.vectors() * curvatures.asDiagonal() * eigen_.vectors().transpose();
    symmetrize(matrix_);
    return matrix_;
  }

 private:
  Matrix matrix_;
  SymmetricEigen eigen_;
};

/// A step with the multipliers that belong to it.
struct Step {
  Vector change;
  Vector multipliers;
  double left_broken = 0; ///< by how much, at the prices, the linearized rows stay broken
  bool is_elastic = false;
  bool is_found = false;
};

/// The quadratic programs about one point and their prices for broken rows.
class Subproblem {
 public:
  Subproblem(const std::vector<Constraint>& rows, const Bounds& bounds) : rows_(rows), bounds_(bounds) {}

  /// With the rows' values taken as `values`: those at the point, or corrected ones.
  Step solve_with(const ConstrainedPoint& here, const Matrix& model, const Vector& values, const Vector& prices,
                  bool may_be_elastic) {
    QuadraticProgram program = plain(here, model, values);
    QuadraticSolution found = methods::solve(program);
    if (found.status == QuadraticSolution::Status::solved)
      return {.change = std::move(found.x), .multipliers = std::move(found.row_multipliers), .is_found = true};
    if (!may_be_elastic || rows_.empty()) return {};
    return solve_elastic(std::move(program), prices);
  }

 private:
  [[nodiscard]] QuadraticProgram plain(const ConstrainedPoint& here, const Matrix& model, const Vector& values) const {
    QuadraticProgram program{.hessian = model, .gradient = here.gradient, .rows = here.jacobian};
    const auto m = static_cast<Index>(rows_.size());
    program.lower.resize(m);
    program.upper.resize(m);
    for (Index i = 0; i < m; ++i) {
      program.lower[i] = rows_[static_cast<std::size_t>(i)].lower - values[i];
      program.upper[i] = rows_[static_cast<std::size_t>(i)].upper - values[i];
    }
    program.least = bounds_.lower() - here.x;
    program.most = bounds_.upper() - here.x;
    return program;
  }

  /// Each row may be broken by t_i >= 0 at its price: A d + t >= lower, A d - t <= upper. A slight curvature in t keeps
  /// the program strictly convex.
  static Step solve_elastic(QuadraticProgram plain, const Vector& prices) {
    constexpr double slight = 1e-6;
    const Index n = plain.gradient.size(), m = plain.rows.rows();
    const double curvature = slight * std::max(1.0, plain.hessian.diagonal().maxCoeff());
    QuadraticProgram loose;
    loose.hessian = Matrix::Zero(n + m, n + m);
    loose.hessian.topLeftCorner(n, n) = plain.hessian;
    loose.hessian.diagonal().tail(m).setConstant(curvature);
    loose.gradient.resize(n + m);
    loose.gradient << plain.gradient, prices;
    loose.rows = Matrix::Zero(2 * m, n + m);
    loose.rows.topLeftCorner(m, n) = loose.rows.bottomLeftCorner(m, n) = plain.rows;
    loose.rows.topRightCorner(m, m).setIdentity();
    loose.rows.bottomRightCorner(m, m) = -Matrix::Identity(m, m);
    loose.lower = Vector::Constant(2 * m, -infinity);
    loose.upper = Vector::Constant(2 * m, infinity);
    loose.lower.head(m) = plain.lower;
    loose.upper.tail(m) = plain.upper;
    loose.least = Vector::Zero(n + m);
    loose.least.head(n) = plain.least;
    loose.most = Vector::Constant(n + m, infinity);
    loose.most.head(n) = plain.most;
    const QuadraticSolution found = methods::solve(loose);
    if (found.status != QuadraticSolution::Status::solved) return {};
    return {.change = found.x.head(n),
            .multipliers = found.row_multipliers.head(m) + found.row_multipliers.tail(m),
            .left_broken = prices.dot(found.x.tail(m)),
            .is_elastic = found.x.tail(m).maxCoeff() > 0,
            .is_found = true};
  }

  const std::vector<Constraint>& rows_;
  const Bounds& bounds_;
};

/// The value plus each row's violation at its price: exact where the prices are above the multipliers.
class Merit {
 public:
  explicit Merit(const std::vector<Constraint>& rows)
      : prices(Vector::Ones(static_cast<Index>(rows.size()))), rows_(rows) {}

  Vector prices;

  /// Powell's prices (1978): each is above its multiplier, and falls by halves.
  void follow(const Vector& multipliers) {
    prices = (1.1 * multipliers.cwiseAbs()).cwiseMax(0.5 * (prices + multipliers.cwiseAbs()));
  }
  [[nodiscard]] double broken(const Vector& values) const {
    double sum = 0;
    for (Index i = 0; i < prices.size(); ++i)
      sum += prices[i] * rows_[static_cast<std::size_t>(i)].violation(values[i]);
    return sum;
  }
  [[nodiscard]] double at(const ConstrainedPoint& point) const { return point.value + broken(point.rows); }
  /// What must be gained for a fall that is no rounding.
  [[nodiscard]] static double noise(double merit) { return 1e-14 * std::max(1.0, std::abs(merit)); }

 private:
  const std::vector<Constraint>& rows_;
};

/// One run: where it stands, its model, its prices.
class QuadraticWalk {
 public:
  QuadraticWalk(const SequentialQuadratic& settings, Evaluator& evaluate, Vector start)
      : here(), settings_(settings), evaluate_(evaluate), rows_(evaluate.problem().constraints()),
        bounds_(evaluate.bounds()), subproblem_(rows_, bounds_), merit_(rows_), damped_(start.size()),
        exact_(start.size()) {
    bounds_.project(start);
    can_go_on_ = here.evaluate_at(evaluate, start) && here.derive(evaluate);
    multipliers = Vector::Zero(static_cast<Index>(rows_.size()));
  }

  ConstrainedPoint here;
  Vector multipliers;
  double length = 0; ///< part of the last step that was taken
  std::string_view infeasible, settled, stalled;

  [[nodiscard]] double largest_price() const { return merit_.prices.size() > 0 ? merit_.prices.maxCoeff() : 0; }
  [[nodiscard]] double kkt() const {
    return can_go_on_ ? kkt_residual(here, multipliers, rows_, bounds_) : std::numeric_limits<double>::quiet_NaN();
  }

  void iterate() {
    length = 0;
    if (!can_go_on_) {
      stalled = "the problem or its derivatives are no numbers here";
      return;
    }
    const Step step = find_step();
    if (!step.is_found) {
      give_up("no quadratic model of the constraints can be minimized here");
      return;
    }
    multipliers = step.multipliers;
    if (!step.is_elastic) merit_.follow(multipliers);
    if (step.is_elastic && elastic_ >= most_elastic && is_lost(step)) {
      infeasible = no_less_broken;
      return;
    }
    if (!search_along(step)) {
      const bool is_short = step.change.norm() <= 1e-9 * (1 + here.x.norm());
      if (is_short && here.violation <= evaluate_.feasibility())
        settled = no_further;
      else
        give_up("no part of the step lowers the value and the weighted violations");
      return;
    }
    fresh_ = false;
    const Vector change = next_.x - here.x;
    // Changes of gradients over a step of rounding's size are rounding.
    const bool tells_curvature = change.norm() > 1e-11 * (1 + here.x.norm());
    if (change.norm() <= 1e-14 * (1 + here.x.norm()) && here.violation <= evaluate_.feasibility()) {
      settled = no_further;
      return;
    }
    const Vector before = here.gradient + here.jacobian.transpose() * multipliers;
    can_go_on_ = next_.derive(evaluate_);
    std::swap(here, next_);
    if (settings_.model == SequentialQuadratic::Model::bfgs && tells_curvature)
      damped_.update(change, here.gradient + here.jacobian.transpose() * multipliers - before);
  }

 private:
  Step find_step() {
    model_ = settings_.model == SequentialQuadratic::Model::exact ? &exact_.at(evaluate_, here, multipliers)
                                                                  : &damped_.matrix();
    const double size = 1 + here.gradient.lpNorm<Eigen::Infinity>();
    const Vector prices = merit_.prices.cwiseMax(elastic_ * size);
    Step step = subproblem_.solve_with(here, *model_, here.rows, prices, true);
    if (step.is_elastic) {
      merit_.prices = prices;
      elastic_ = std::min(10 * elastic_, most_elastic);
    }
    return step;
  }

  /// The step, whole, corrected, or a part of it; `next_` is where it leads. False where the merit does not fall.
  bool search_along(const Step& step) {
    const double from = merit_.at(here);
    const double slope = here.gradient.dot(step.change) - merit_.broken(here.rows) + step.left_broken;
    const auto is_lower = [&](double part) {
      return merit_.at(next_) <= from + settings_.decrease * part * std::min(slope, 0.0) + Merit::noise(from);
    };
    const auto go = [&](const Vector& change, double part) {
      Vector x = here.x + part * change;
      bounds_.project(x);
      length = part;
      return next_.evaluate_at(evaluate_, x);
    };
    double part = 1;
    for (Index trial = 0; trial < settings_.trials; ++trial) {
      const bool has_value = go(step.change, part);
      if (has_value && is_lower(part)) return true;
      const double reached = has_value ? merit_.at(next_) : infinity;
      if (trial == 0 && has_value && !step.is_elastic && corrects(step, go) && is_lower(1)) return true;
      // The parabola through value, slope and the trial's value.
      const double bend = reached - from - part * slope;
      const double wanted = std::isfinite(bend) && bend > 0 ? -0.5 * slope * part * part / bend : 0.1 * part;
      part = std::clamp(wanted, 0.1 * part, 0.5 * part);
    }
    length = 0;
    return false;
  }

  /// Goes the step that meets the rows as they are at the end of the plain one (Nocedal and Wright, 2006,
  /// section 15.6).
  template <class Go>
  bool corrects(const Step& step, const Go& go) {
    if (rows_.empty()) return false;
    const Vector values = next_.rows - here.jacobian * step.change;
    const Step corrected = subproblem_.solve_with(here, *model_, values, merit_.prices, false);
    return corrected.is_found && corrected.change.norm() <= 2 * step.change.norm() && go(corrected.change, 1);
  }

  /// Nothing more can be done with this model: a fresh one is tried once, then the walk ends.
  void give_up(std::string_view reason) {
    if (here.violation > evaluate_.feasibility() && is_least_broken(here, rows_, bounds_)) {
      infeasible = no_less_broken;
    } else if (!fresh_ && settings_.model == SequentialQuadratic::Model::bfgs) {
      damped_.restart();
      fresh_ = true;
    } else {
      stalled = reason;
    }
  }

  /// Whether the linearized rows cannot be broken less, at whatever price.
  [[nodiscard]] bool is_lost(const Step& step) const {
    const double broken = merit_.broken(here.rows);
    return here.violation > evaluate_.feasibility() &&
           (broken - step.left_broken <= 1e-6 * broken || is_least_broken(here, rows_, bounds_));
  }

  static constexpr double most_elastic = 1e7;
  static constexpr std::string_view no_further = "the step is beyond the precision of the numbers";
  static constexpr std::string_view no_less_broken = "the constraints cannot be broken less from here";

  const SequentialQuadratic& settings_;
  Evaluator& evaluate_;
  const std::vector<Constraint>& rows_;
  const Bounds& bounds_;
  Subproblem subproblem_;
  Merit merit_;
  DampedModel damped_;
  ExactModel exact_;
  const Matrix* model_ = nullptr;
  ConstrainedPoint next_;
  double elastic_ = 10; ///< price of a broken row in the elastic mode, in units of the gradient
  bool can_go_on_ = true;
  bool fresh_ = true;
};

} // namespace

MethodCard SequentialQuadratic::card() {
  return {.title = "sequential quadratic programming with a line search",
          .family = "constrained",
          .source = "Wilson, 1963; Han, 1977; Powell, 1978; Nocedal and Wright, 2006, algorithm 18.3; Goldfarb and "
                    "Idnani, 1983",
          .limits = "bounds at every evaluation; constraints in the limit, from any start",
          .summary = "Few iterations for smooth equalities and inequalities, with their multipliers.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void SequentialQuadratic::settings(Settings& list) {
  list.add("model", model, {{"bfgs", Model::bfgs}, {"exact", Model::exact}})
      .means("the Lagrangian's curvature: updated from gradients, or its exact Hessian made positive definite");
  list.add("decrease", decrease).above(0).below(0.5).means("part of the merit's predicted fall to reach");
  list.add("trials", trials).at_least(1).means("of a line search");
}

Search SequentialQuadratic::search(Evaluator& evaluate, Start start) const {
  QuadraticWalk walk(*this, evaluate, std::move(start.point));
  for (;;) {
    walk.iterate();
    co_yield Iteration(walk.here.x, walk.here.value)
        .violation(walk.here.violation)
        .kkt(walk.kkt())
        .column("step", walk.length)
        .column("multiplier_norm", walk.multipliers.norm())
        .column("price", walk.largest_price())
        .infeasible(walk.infeasible)
        .settled(walk.settled)
        .stalled(walk.stalled);
  }
}

} // namespace tanzen::methods
