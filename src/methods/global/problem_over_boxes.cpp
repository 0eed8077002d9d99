#include "problem_over_boxes.hpp"

#include "tanzen/problem/value_and_rows.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

ProblemOverBoxes::ProblemOverBoxes(const Problem& problem)
    : tape_(value_and_rows(problem).value()), work_(tape_.workspace()), point_work_(tape_.workspace()),
      sign_(problem.sign()), n_(static_cast<std::size_t>(problem.dimension())), sizes_(problem.typical_sizes()),
      point_(n_) {
  const Box box = problem.sampling_box();
  for (Index i = 0; i < problem.dimension(); ++i) region_.emplace_back(box.lower[i], box.upper[i]);
  for (const Constraint& row : problem.constraints()) limits_.emplace_back(row.lower, row.upper);
  multipliers_ = Vector::Zero(static_cast<Index>(limits_.size()));
}

BoxTraits ProblemOverBoxes::look_at(const Sides& box, Order order) {
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
  const BoxTraits traits = tape_.traits(work_);
  return !traits.nowhere && !traits.partly && is_inside();
}

bool ProblemOverBoxes::has_least() const {
  for (Index k = 0; k < tape_.outputs(); ++k) {
    const BoxTraits traits = tape_.traits(work_, k);
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
    const Vector y = least_squares(columns, -gradient);
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

bool ProblemOverBoxes::set_best_multipliers() {
  if (best_multipliers_.size() == 0) return false;
  for (std::size_t k = 0; k < rows(); ++k) {
    const bool counts = best_multipliers_[static_cast<Index>(k)] != 0;
    if (counts && !tape_.traits(work_, static_cast<Index>(k) + 1).is_smooth()) return false;
  }
  multipliers_ = best_multipliers_;
  return true;
}

Enclosure ProblemOverBoxes::range_from_middle(const Sides& box) {
  for (std::size_t i = 0; i < n_; ++i) point_[i] = Enclosure(box[i].middle());
  (void)tape_.evaluate(point_, Order::gradient, point_work_);
  for (Index k = 0; k < tape_.outputs(); ++k) {
    const BoxTraits at = tape_.traits(point_work_, k);
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

} // namespace tanzen::methods
