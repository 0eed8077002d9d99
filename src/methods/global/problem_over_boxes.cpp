#include "problem_over_boxes.hpp"

#include <Eigen/Cholesky>
#include <Eigen/QR>

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {
namespace {

using intervals::infinity;

Expressions parts_of(const Problem& problem) {
  return problem.constraints().empty() ? Expressions(*problem.expression()) : *problem.expressions();
}

/// Positive definite: as it is, or with as little added to its diagonal as that takes.
Eigen::LLT<Matrix> definite_factors(const Matrix& hessian) {
  const double size = std::max(hessian.cwiseAbs().maxCoeff(), std::numeric_limits<double>::min());
  Eigen::LLT<Matrix> factors(hessian);
  for (double more = 1e-6; factors.info() != Eigen::Success && more < 1e3; more *= 10)
    factors.compute(hessian + Matrix(more * size * Matrix::Identity(hessian.rows(), hessian.cols())));
  return factors;
}

} // namespace

ProblemOverBoxes::ProblemOverBoxes(const Problem& problem)
    : tape_(parts_of(problem)), work_(tape_.workspace()), point_work_(tape_.workspace()), sign_(problem.sign()),
      n_(static_cast<std::size_t>(problem.dimension())), sizes_(problem.typical_sizes()), point_(n_) {
  const Box box = problem.sampling_box();
  for (Index i = 0; i < problem.dimension(); ++i) region_.emplace_back(box.lower[i], box.upper[i]);
  for (const Constraint& row : problem.constraints()) limits_.emplace_back(row.lower, row.upper);
  multipliers_ = Vector::Zero(static_cast<Index>(limits_.size()));
}

const BoxTraits& ProblemOverBoxes::look_at(const Sides& box, Order order) {
  (void)tape_.evaluate(box, order, work_);
  return tape_.traits(work_);
}

Enclosure ProblemOverBoxes::weighted_value(const IntervalTape::Workspace& work) const {
  Enclosure sum = told(tape_.value(work));
  for (std::size_t k = 0; k < rows(); ++k) {
    const double y = multipliers_[static_cast<Index>(k)];
    if (y == 0) continue;
    const double limit = y > 0 ? limits_[k].upper : limits_[k].lower;
    sum = sum + Enclosure(y) * (tape_.value(work, static_cast<Index>(k) + 1) - Enclosure(limit));
  }
  return sum;
}

Enclosure ProblemOverBoxes::weighted_slope(std::size_t i, const IntervalTape::Workspace& work) const {
  const auto at = static_cast<Index>(i);
  Enclosure sum = told(tape_.slope(at, work));
  for (Index k = 0; k < multipliers_.size(); ++k) {
    if (multipliers_[k] != 0) sum = sum + Enclosure(multipliers_[k]) * tape_.slope(at, work, k + 1);
  }
  return sum;
}

Enclosure ProblemOverBoxes::bend(std::size_t i, std::size_t j) const {
  const auto row = static_cast<Index>(i), column = static_cast<Index>(j);
  Enclosure sum = told(tape_.bend(row, column, work_));
  for (Index k = 0; k < multipliers_.size(); ++k) {
    if (multipliers_[k] != 0) sum = sum + Enclosure(multipliers_[k]) * tape_.bend(row, column, work_, k + 1);
  }
  return sum;
}

bool ProblemOverBoxes::is_infeasible() const {
  for (std::size_t k = 0; k < rows(); ++k) {
    const auto output = static_cast<Index>(k) + 1;
    if (tape_.traits(work_, output).nowhere || common(tape_.value(work_, output), limits_[k]).is_empty()) return true;
  }
  return false;
}

bool ProblemOverBoxes::may_hold(std::size_t row) const {
  const auto output = static_cast<Index>(row) + 1;
  const Enclosure& value = tape_.value(work_, output);
  return !(tape_.traits(work_, output).is_continuous() && value.lower > limits_[row].lower &&
           value.upper < limits_[row].upper);
}

bool ProblemOverBoxes::is_inside() const {
  for (std::size_t k = 0; k < rows(); ++k) {
    if (may_hold(k)) return false;
  }
  return true;
}

bool ProblemOverBoxes::is_continuous() const {
  if (!tape_.traits(work_).is_continuous()) return false;
  for (std::size_t k = 0; k < rows(); ++k) {
    if (may_hold(k) && !tape_.traits(work_, static_cast<Index>(k) + 1).is_continuous()) return false;
  }
  return true;
}

bool ProblemOverBoxes::is_smooth() const {
  if (!tape_.traits(work_).is_smooth()) return false;
  for (std::size_t k = 0; k < rows(); ++k) {
    if (may_hold(k) && !tape_.traits(work_, static_cast<Index>(k) + 1).is_smooth()) return false;
  }
  return true;
}

bool ProblemOverBoxes::has_values() const {
  const BoxTraits& traits = tape_.traits(work_);
  return !traits.nowhere && !traits.partly && is_inside();
}

bool ProblemOverBoxes::has_least() const {
  for (Index k = 0; k < tape_.outputs(); ++k) {
    const BoxTraits& traits = tape_.traits(work_, k);
    if (traits.nowhere || traits.partly || traits.may_jump) return false;
  }
  return true;
}

bool ProblemOverBoxes::contract_by_value(double best, Sides& box) {
  if (!std::isfinite(best) || value().upper <= best) return true;
  return contract_by(0, told({-infinity, best}), box);
}

bool ProblemOverBoxes::contract_by_rows(Sides& box) {
  for (std::size_t k = 0; k < rows(); ++k) {
    if (may_hold(k) && !contract_by(static_cast<Index>(k) + 1, limits_[k], box)) return false;
  }
  return true;
}

bool ProblemOverBoxes::contract_by(Index output, const Enclosure& range, Sides& box) {
  narrower_ = box;
  if (!tape_.contract(range, narrower_, work_, output)) return false;
  for (std::size_t i = 0; i < n_; ++i) {
    box[i] = common(box[i], narrower_[i]);
    if (box[i].is_empty()) return false;
  }
  return true;
}

void ProblemOverBoxes::look_at_point(const Vector& point, Order order) {
  for (std::size_t i = 0; i < n_; ++i) point_[i] = Enclosure(point[static_cast<Index>(i)]);
  (void)tape_.evaluate(point_, order, point_work_);
}

void ProblemOverBoxes::slopes_at_point(Vector& gradient, Matrix& rows, Vector& values) const {
  const auto n = static_cast<Index>(n_);
  gradient.resize(n);
  rows.resize(multipliers_.size(), n);
  values.resize(multipliers_.size());
  for (Index i = 0; i < n; ++i) {
    gradient[i] = sign_ * tape_.slope(i, point_work_).middle();
    for (Index k = 0; k < rows.rows(); ++k) rows(k, i) = tape_.slope(i, point_work_, k + 1).middle();
  }
  for (Index k = 0; k < rows.rows(); ++k) values[k] = tape_.value(point_work_, k + 1).middle();
}

void ProblemOverBoxes::set_multipliers(const Sides& box) {
  multipliers_.setZero();
  std::vector<Index> holding;
  for (std::size_t k = 0; k < rows(); ++k) {
    if (may_hold(k)) holding.push_back(static_cast<Index>(k));
  }
  if (holding.empty()) return;
  Vector middle(static_cast<Index>(n_)), gradient, values;
  for (std::size_t i = 0; i < n_; ++i) middle[static_cast<Index>(i)] = box[i].middle();
  look_at_point(middle, Order::gradient);
  Matrix all;
  slopes_at_point(gradient, all, values);
  if (!gradient.allFinite() || !all.allFinite()) return;
  // Sides of no width take no part.
  for (Index i = 0; i < gradient.size(); ++i) {
    if (!box[static_cast<std::size_t>(i)].is_point()) continue;
    gradient[i] = 0;
    all.col(i).setZero();
  }
  for (bool again = true; again && !holding.empty();) {
    again = false;
    Matrix columns(gradient.size(), static_cast<Index>(holding.size()));
    for (std::size_t k = 0; k < holding.size(); ++k)
      columns.col(static_cast<Index>(k)) = all.row(holding[k]).transpose();
    const Vector y = columns.colPivHouseholderQr().solve(-gradient);
    if (!y.allFinite()) return;
    std::vector<Index> kept;
    for (std::size_t k = 0; k < holding.size(); ++k) {
      const Enclosure& limits = limits_[static_cast<std::size_t>(holding[k])];
      const double each = y[static_cast<Index>(k)];
      const bool is_right = std::isfinite(each > 0 ? limits.upper : limits.lower);
      if (is_right) kept.push_back(holding[k]);
    }
    again = kept.size() < holding.size();
    if (!again) {
      for (std::size_t k = 0; k < holding.size(); ++k) multipliers_[holding[k]] = y[static_cast<Index>(k)];
    }
    holding = std::move(kept);
  }
}

Enclosure ProblemOverBoxes::range_from_middle(const Sides& box) {
  for (std::size_t i = 0; i < n_; ++i) point_[i] = Enclosure(box[i].middle());
  (void)tape_.evaluate(point_, Order::gradient, point_work_);
  for (Index k = 0; k < tape_.outputs(); ++k) {
    const BoxTraits& at = tape_.traits(point_work_, k);
    if (at.nowhere || at.partly) return intervals::everything;
  }
  const bool is_twice = is_smooth();
  Enclosure mean = weighted_value(point_work_), taylor = mean;
  for (std::size_t i = 0; i < n_; ++i) {
    const Enclosure away = box[i] - point_[i];
    if (away == Enclosure(0)) continue;
    mean = mean + slope(i) * away;
    if (!is_twice) continue;
    taylor = taylor + weighted_slope(i, point_work_) * away + Enclosure(0.5) * (bend(i, i) * square(away));
    for (std::size_t j = 0; j < i; ++j) taylor = taylor + bend(i, j) * (away * (box[j] - point_[j]));
  }
  const Enclosure range = common(intervals::everything, mean); // where it is a number
  return is_twice ? common(range, taylor) : range;
}

double ProblemOverBoxes::highest_at(const Vector& point) {
  return proved_value(point).value_or(infinity);
}

std::optional<double> ProblemOverBoxes::proved_value(const Vector& point) {
  look_at_point(point, Order::gradient);
  const BoxTraits& traits = tape_.traits(point_work_);
  if (traits.nowhere || traits.partly) return std::nullopt;
  std::vector<std::size_t> equalities;
  for (std::size_t k = 0; k < rows(); ++k) {
    const auto output = static_cast<Index>(k) + 1;
    const BoxTraits& of_row = tape_.traits(point_work_, output);
    if (of_row.nowhere || of_row.partly) return std::nullopt;
    const Enclosure& value = tape_.value(point_work_, output);
    if (limits_[k].is_point() && value != limits_[k])
      equalities.push_back(k);
    else if (!limits_[k].is_point() && (value.lower < limits_[k].lower || value.upper > limits_[k].upper))
      return std::nullopt;
  }
  if (equalities.empty()) return told(tape_.value(point_work_)).upper;
  // As many variables as equalities, by which they change most, find a zero nearby; the others stay.
  Vector gradient, values;
  Matrix all;
  slopes_at_point(gradient, all, values);
  const auto m = static_cast<Index>(equalities.size());
  Matrix jacobian(m, gradient.size());
  for (Index k = 0; k < m; ++k) jacobian.row(k) = all.row(static_cast<Index>(equalities[static_cast<std::size_t>(k)]));
  for (std::size_t i = 0; i < n_; ++i) { // not on the region's faces
    const double x = point[static_cast<Index>(i)];
    if (x <= region_[i].lower || x >= region_[i].upper) jacobian.col(static_cast<Index>(i)).setZero();
  }
  if (!jacobian.allFinite()) return std::nullopt;
  const Eigen::ColPivHouseholderQR<Matrix> pivots(jacobian);
  if (pivots.rank() < m) return std::nullopt;
  std::vector<std::size_t> moving;
  for (Index k = 0; k < m; ++k) moving.push_back(static_cast<std::size_t>(pivots.colsPermutation().indices()[k]));
  Sides at_point;
  for (const std::size_t k : equalities)
    at_point.push_back(tape_.value(point_work_, static_cast<Index>(k) + 1) - limits_[k]);
  IntervalNewton newton;
  for (const double radius : {1e-14, 1e-12, 1e-10, 1e-8}) {
    Sides box, within;
    std::vector<double> centre;
    for (std::size_t i = 0; i < n_; ++i) box.emplace_back(point[static_cast<Index>(i)]);
    for (const std::size_t i : moving) {
      const double x = point[static_cast<Index>(i)], half = radius * std::max(std::abs(x), typical_size(i));
      box[i] = {x - half, x + half};
      if (box[i].lower < region_[i].lower || box[i].upper > region_[i].upper) return std::nullopt;
      within.push_back(box[i]);
      centre.push_back(x);
    }
    (void)tape_.evaluate(box, Order::gradient, point_work_);
    Sides slopes;
    bool is_good = true;
    for (const std::size_t k : equalities) {
      const auto output = static_cast<Index>(k) + 1;
      is_good = is_good && tape_.traits(point_work_, output).is_smooth();
      for (const std::size_t i : moving) slopes.push_back(tape_.slope(static_cast<Index>(i), point_work_, output));
    }
    if (!is_good || newton.take(slopes, at_point, centre, within) != IntervalNewton::Result::one_zero) continue;
    for (std::size_t k = 0; k < moving.size(); ++k) box[moving[k]] = within[k];
    (void)tape_.evaluate(box, Order::value, point_work_);
    for (std::size_t k = 0; k < rows(); ++k) {
      if (limits_[k].is_point()) continue;
      const Enclosure& value = tape_.value(point_work_, static_cast<Index>(k) + 1);
      if (!(value.lower >= limits_[k].lower && value.upper <= limits_[k].upper)) return std::nullopt;
    }
    const BoxTraits& over = tape_.traits(point_work_);
    if (over.nowhere || over.partly) return std::nullopt;
    return told(tape_.value(point_work_)).upper;
  }
  return std::nullopt;
}

void ProblemOverBoxes::descend(Vector& point) {
  if (rows() == 0)
    descend_freely(point);
  else
    descend_along_rows(point);
}

void ProblemOverBoxes::descend_freely(Vector& x) {
  constexpr int most_steps = 60, most_halvings = 40;
  const auto n = static_cast<Index>(n_);
  double value = highest_at(x);
  Matrix hessian(n, n), none;
  Vector gradient(n), nothing, step(n), next(n);
  for (int k = 0; k < most_steps && std::isfinite(value); ++k) {
    look_at_point(x, Order::hessian);
    slopes_at_point(gradient, none, nothing);
    for (Index i = 0; i < n; ++i) {
      for (Index j = 0; j < n; ++j) hessian(i, j) = sign_ * tape_.bend(i, j, point_work_).middle();
    }
    if (!gradient.allFinite() || !hessian.allFinite()) return;
    // What a face holds stays.
    for (Index i = 0; i < n; ++i) {
      const Enclosure& side = region_[static_cast<std::size_t>(i)];
      const bool is_held = (x[i] <= side.lower && gradient[i] > 0) || (x[i] >= side.upper && gradient[i] < 0);
      if (!is_held) continue;
      hessian.row(i).setZero();
      hessian.col(i).setZero();
      hessian(i, i) = 1;
      gradient[i] = 0;
    }
    const Eigen::LLT<Matrix> factors = definite_factors(hessian);
    step = factors.info() == Eigen::Success ? Vector(-factors.solve(gradient)) : Vector(-gradient);
    bool is_lower = false;
    for (int halving = 0; halving < most_halvings && !is_lower; ++halving, step *= 0.5) {
      next = x + step;
      for (Index i = 0; i < n; ++i)
        next[i] =
            std::clamp(next[i], region_[static_cast<std::size_t>(i)].lower, region_[static_cast<std::size_t>(i)].upper);
      const double found = highest_at(next);
      is_lower = found < value;
      if (is_lower) value = found;
    }
    if (!is_lower) return;
    x = next;
  }
}

/// Newton steps on the Lagrangian with the rows and faces that hold the point, of which those that pull outward are let
/// go (Nocedal and Wright, 2006, section 18.4); then a little inside of the inequalities that hold it.
void ProblemOverBoxes::descend_along_rows(Vector& x) {
  constexpr int most_steps = 50;
  constexpr double near = 1e-9;
  const auto n = static_cast<Index>(n_);
  const Index m = multipliers_.size();
  Vector gradient, values, y = Vector::Zero(m);
  Matrix all, hessian(n, n);
  for (int k = 0; k < most_steps; ++k) {
    look_at_point(x, Order::hessian);
    slopes_at_point(gradient, all, values);
    for (Index i = 0; i < n; ++i) {
      for (Index j = 0; j < n; ++j) {
        hessian(i, j) = sign_ * tape_.bend(i, j, point_work_).middle();
        for (Index row = 0; row < m; ++row) {
          if (y[row] != 0) hessian(i, j) += y[row] * tape_.bend(i, j, point_work_, row + 1).middle();
        }
      }
    }
    if (!gradient.allFinite() || !all.allFinite() || !hessian.allFinite() || !values.allFinite()) return;
    // Rows, then faces: the slopes, how far the point is from the limit, and which way it may not go.
    struct Held {
      Vector slope;
      double away;
      int side;  ///< 0 for equalities
      Index row; ///< -1 for faces
    };
    std::vector<Held> held;
    for (Index row = 0; row < m; ++row) {
      const Enclosure& limits = limits_[static_cast<std::size_t>(row)];
      const double room = near * std::max(1.0, std::abs(values[row]));
      if (limits.is_point())
        held.push_back({all.row(row).transpose(), values[row] - limits.lower, 0, row});
      else if (values[row] <= limits.lower + room)
        held.push_back({all.row(row).transpose(), values[row] - limits.lower, -1, row});
      else if (values[row] >= limits.upper - room)
        held.push_back({all.row(row).transpose(), values[row] - limits.upper, 1, row});
    }
    for (Index i = 0; i < n; ++i) {
      const Enclosure& side = region_[static_cast<std::size_t>(i)];
      if (x[i] <= side.lower)
        held.push_back({Vector::Unit(n, i), x[i] - side.lower, -1, -1});
      else if (x[i] >= side.upper)
        held.push_back({Vector::Unit(n, i), x[i] - side.upper, 1, -1});
    }
    const Eigen::LLT<Matrix> factors = definite_factors(hessian);
    if (factors.info() != Eigen::Success) return;
    Vector step = -factors.solve(gradient), found;
    for (bool again = true; again;) {
      again = false;
      const auto count = static_cast<Index>(held.size());
      if (count == 0) {
        step = -factors.solve(gradient);
        break;
      }
      Matrix columns(n, count);
      Vector away(count);
      for (Index h = 0; h < count; ++h) {
        columns.col(h) = held[static_cast<std::size_t>(h)].slope;
        away[h] = held[static_cast<std::size_t>(h)].away;
      }
      // H s + A y = -g, A' s = -away, by the Schur complement.
      const Matrix solved = factors.solve(columns);
      found = (columns.transpose() * solved)
                  .completeOrthogonalDecomposition()
                  .solve(away - columns.transpose() * Vector(factors.solve(gradient)));
      step = -factors.solve(gradient) - solved * found;
      Index worst = -1;
      for (Index h = 0; h < count; ++h) {
        const Held& each = held[static_cast<std::size_t>(h)];
        if (each.side == 0 || found[h] * each.side >= 0) continue;
        if (worst < 0 || std::abs(found[h]) > std::abs(found[worst])) worst = h;
      }
      if (worst >= 0) {
        held.erase(held.begin() + worst);
        again = true;
      }
    }
    y.setZero();
    for (std::size_t h = 0; h < held.size(); ++h) {
      if (held[h].row >= 0) y[held[h].row] = found[static_cast<Index>(h)];
    }
    double longest = 1;
    for (Index i = 0; i < n; ++i) {
      const Enclosure& side = region_[static_cast<std::size_t>(i)];
      const double most = 0.3 * side.width();
      if (std::abs(step[i]) > most && most > 0) longest = std::min(longest, most / std::abs(step[i]));
    }
    const Vector before = x;
    for (Index i = 0; i < n; ++i)
      x[i] = std::clamp(x[i] + longest * step[i], region_[static_cast<std::size_t>(i)].lower,
                        region_[static_cast<std::size_t>(i)].upper);
    if (!x.allFinite()) {
      x = before;
      return;
    }
    if ((x - before).cwiseQuotient(sizes_).lpNorm<Eigen::Infinity>() < 1e-15) break;
  }
  step_inside(x);
}

/// By the shortest ways to a little within the limits of the inequalities that hold the point, further until it is
/// proved to be feasible.
void ProblemOverBoxes::step_inside(Vector& x) {
  constexpr double near = 1e-7;
  Vector gradient, values;
  Matrix all;
  Vector from = x;
  for (double room = 1e-15; room < near; room *= 8) {
    if (std::isfinite(highest_at(x))) return;
    look_at_point(from, Order::gradient);
    slopes_at_point(gradient, all, values);
    if (!all.allFinite() || !values.allFinite()) return;
    std::vector<Index> held;
    std::vector<double> wanted;
    for (Index k = 0; k < values.size(); ++k) {
      const Enclosure& limits = limits_[static_cast<std::size_t>(k)];
      const double size = std::max(1.0, std::abs(values[k]));
      if (!limits.is_point() && values[k] > limits.lower + near * size && values[k] < limits.upper - near * size)
        continue;
      const bool at_lower = values[k] - limits.lower < limits.upper - values[k];
      const double more = limits.is_point() ? 0 : at_lower ? room * size : -room * size;
      held.push_back(k);
      wanted.push_back((at_lower ? limits.lower : limits.upper) + more - values[k]);
    }
    if (held.empty()) return;
    Matrix rows(static_cast<Index>(held.size()), x.size());
    for (std::size_t k = 0; k < held.size(); ++k) rows.row(static_cast<Index>(k)) = all.row(held[k]);
    for (Index i = 0; i < x.size(); ++i) { // faces hold too
      const Enclosure& side = region_[static_cast<std::size_t>(i)];
      if (x[i] <= side.lower || x[i] >= side.upper) rows.col(i).setZero();
    }
    const Vector step = rows.completeOrthogonalDecomposition().solve(
        Eigen::Map<const Vector>(wanted.data(), static_cast<Index>(wanted.size())));
    if (!step.allFinite()) return;
    x = from + step;
    for (Index i = 0; i < x.size(); ++i)
      x[i] = std::clamp(x[i], region_[static_cast<std::size_t>(i)].lower, region_[static_cast<std::size_t>(i)].upper);
  }
}

} // namespace tanzen::methods
