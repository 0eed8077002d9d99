// Points of a problem over boxes: values that they are proved to have, and descents to better ones.
#include "problem_over_boxes.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

/// Positive definite, and no more nearly singular than rounding lets one tell: as it is, or with as little added to its
/// diagonal as that takes. None where nothing helps.
std::optional<CholeskyFactors> definite_factors(const Matrix& hessian) {
  constexpr double nearly_singular = 1e-14;
  const double largest = hessian.cwiseAbs().maxCoeff(), size = largest > 0 ? largest : 1;
  CholeskyFactors factors(hessian.rows());
  const auto is_good = [&](const Matrix& matrix) {
    return factors.compute(matrix) && factors.reciprocal_condition() > nearly_singular;
  };
  if (is_good(hessian)) return factors;
  for (double more = 1e-6; more < 1e3; more *= 10) {
    if (is_good(hessian + more * size * Matrix::Identity(hessian.rows(), hessian.cols()))) return factors;
  }
  return std::nullopt;
}

} // namespace

double ProblemOverBoxes::highest_at(const Vector& point) {
  return proved_value(point).value_or(infinity);
}

std::optional<double> ProblemOverBoxes::proved_value(const Vector& point) {
  look_at_point(point, Order::gradient);
  if (!has_value_there()) return std::nullopt;
  std::vector<std::size_t> equalities;
  for (std::size_t k = 0; k < rows(); ++k) {
    const Enclosure& value = tape_.value(point_work_, static_cast<Index>(k) + 1);
    if (limits_[k].is_point() && value != limits_[k])
      equalities.push_back(k);
    else if (!limits_[k].is_point() && !keeps_inequality(k))
      return std::nullopt;
  }
  if (equalities.empty()) return told(tape_.value(point_work_)).upper;
  return proved_value_nearby(point, equalities);
}

bool ProblemOverBoxes::has_value_there() const {
  for (Index k = 0; k < tape_.outputs(); ++k) {
    const BoxTraits traits = tape_.traits(point_work_, k);
    if (traits.nowhere || traits.partly) return false;
  }
  return true;
}

bool ProblemOverBoxes::keeps_inequality(std::size_t row) const {
  const Enclosure& value = tape_.value(point_work_, static_cast<Index>(row) + 1);
  return value.lower >= limits_[row].lower && value.upper <= limits_[row].upper;
}

/// As many variables as equalities, by which they change most: with the others where they are, the equalities have a
/// zero nearby. None where too few are off the region's faces.
std::vector<std::size_t> ProblemOverBoxes::moving_variables(const Vector& point,
                                                            const std::vector<std::size_t>& equalities) const {
  Vector gradient, values;
  Matrix all;
  slopes_at_point(gradient, all, values);
  const auto m = static_cast<Index>(equalities.size());
  Matrix jacobian(m, gradient.size());
  for (Index k = 0; k < m; ++k) jacobian.row(k) = all.row(static_cast<Index>(equalities[static_cast<std::size_t>(k)]));
  for (std::size_t i = 0; i < n_; ++i) {
    const double x = point[static_cast<Index>(i)];
    if (x <= region_[i].lower || x >= region_[i].upper) jacobian.col(static_cast<Index>(i)).setZero();
  }
  if (!jacobian.allFinite()) return {};
  const std::vector<Index> independent = independent_columns(jacobian);
  if (static_cast<Index>(independent.size()) < m) return {};
  return {independent.begin(), independent.end()};
}

/// The highest value in a tiny box around the point that a Newton step proves to hold a point with all equalities.
std::optional<double> ProblemOverBoxes::proved_value_nearby(const Vector& point,
                                                            const std::vector<std::size_t>& equalities) {
  const std::vector<std::size_t> moving = moving_variables(point, equalities);
  if (moving.empty()) return std::nullopt;
  Sides at_point;
  for (const std::size_t k : equalities)
    at_point.push_back(tape_.value(point_work_, static_cast<Index>(k) + 1) - limits_[k]);
  IntervalNewton newton;
  for (const double radius : {1e-14, 1e-12, 1e-10, 1e-8}) {
    Sides box, within, slopes;
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
    bool is_good = true;
    for (const std::size_t k : equalities) {
      const auto output = static_cast<Index>(k) + 1;
      is_good = is_good && tape_.traits(point_work_, output).is_smooth();
      for (const std::size_t i : moving) slopes.push_back(tape_.slope(static_cast<Index>(i), point_work_, output));
    }
    if (!is_good || newton.take(slopes, at_point, centre, within) != IntervalNewton::Result::one_zero) continue;
    for (std::size_t k = 0; k < moving.size(); ++k) box[moving[k]] = within[k];
    (void)tape_.evaluate(box, Order::value, point_work_);
    if (!has_value_there()) return std::nullopt;
    for (std::size_t k = 0; k < rows(); ++k) {
      if (!limits_[k].is_point() && !keeps_inequality(k)) return std::nullopt;
    }
    return told(tape_.value(point_work_)).upper;
  }
  return std::nullopt;
}

void ProblemOverBoxes::descend(Vector& point) {
  if (rows() == 0)
    descend_freely(point);
  else
    polish_along_rows(point);
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
    hessian = bends_at_point({});
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
    const auto factors = definite_factors(hessian);
    step = factors ? -factors->solve(gradient) : Vector(-gradient);
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

/// The Hessian of the Lagrangian at the point looked at.
Matrix ProblemOverBoxes::bends_at_point(const Vector& multipliers) const {
  const auto n = static_cast<Index>(n_);
  Matrix hessian(n, n);
  for (Index i = 0; i < n; ++i) {
    for (Index j = 0; j < n; ++j) {
      hessian(i, j) = sign_ * tape_.bend(i, j, point_work_).middle();
      for (Index row = 0; row < multipliers.size(); ++row) {
        if (multipliers[row] != 0) hessian(i, j) += multipliers[row] * tape_.bend(i, j, point_work_, row + 1).middle();
      }
    }
  }
  return hessian;
}

std::vector<ProblemOverBoxes::Held> ProblemOverBoxes::held_at(const Vector& x, const Matrix& slopes,
                                                              const Vector& values) const {
  constexpr double near = 1e-6;
  std::vector<Held> held;
  for (Index row = 0; row < values.size(); ++row) {
    const Enclosure& limits = limits_[static_cast<std::size_t>(row)];
    const double room = near * std::max(1.0, std::abs(values[row]));
    if (limits.is_point())
      held.push_back({slopes.row(row).transpose(), values[row] - limits.lower, 0, row});
    else if (values[row] <= limits.lower + room)
      held.push_back({slopes.row(row).transpose(), values[row] - limits.lower, -1, row});
    else if (values[row] >= limits.upper - room)
      held.push_back({slopes.row(row).transpose(), values[row] - limits.upper, 1, row});
  }
  for (Index i = 0; i < x.size(); ++i) {
    const Enclosure& side = region_[static_cast<std::size_t>(i)];
    const double room = near * std::max(std::abs(x[i]), sizes_[i]);
    if (x[i] <= side.lower + room)
      held.push_back({Vector::Unit(x.size(), i), x[i] - side.lower, -1, -1});
    else if (x[i] >= side.upper - room)
      held.push_back({Vector::Unit(x.size(), i), x[i] - side.upper, 1, -1});
  }
  return held;
}

/// The step to the minimum of the quadratic model on what holds the point; what pulls outward is let go, the strongest
/// first. `multipliers` are then those of what is left.
Vector ProblemOverBoxes::step_along(std::vector<Held>& held, const CholeskyFactors& factors, const Vector& gradient,
                                    Vector& multipliers) {
  const Vector freely = -factors.solve(gradient);
  for (;;) {
    const auto count = static_cast<Index>(held.size());
    multipliers.resize(count);
    if (count == 0) return freely;
    Matrix columns(gradient.size(), count);
    Vector away(count);
    for (Index h = 0; h < count; ++h) {
      columns.col(h) = held[static_cast<std::size_t>(h)].slope;
      away[h] = held[static_cast<std::size_t>(h)].away;
    }
    // H s + A y = -g, A' s = -away, by the Schur complement.
    const Matrix solved = factors.solve(columns);
    multipliers = least_squares(columns.transpose() * solved, away + columns.transpose() * freely);
    Index worst = -1;
    for (Index h = 0; h < count; ++h) {
      const int side = held[static_cast<std::size_t>(h)].side;
      if (side == 0 || multipliers[h] * side >= 0) continue;
      if (worst < 0 || std::abs(multipliers[h]) > std::abs(multipliers[worst])) worst = h;
    }
    if (worst < 0) return freely - solved * multipliers;
    held.erase(held.begin() + worst);
  }
}

/// From near a minimizer under the constraints: Newton steps on the Lagrangian with the rows and faces that hold the
/// point, of which those that pull outward are let go (Nocedal and Wright, 2006, section 18.4), as long as they stay
/// near; then a little inside of the inequalities that hold it.
void ProblemOverBoxes::polish_along_rows(Vector& x) {
  const Vector from = x;
  if (newton_along_rows(x)) {
    step_inside(x);
    if (std::isfinite(highest_at(x))) return;
  }
  x = from;
  step_inside(x);
}

bool ProblemOverBoxes::newton_along_rows(Vector& x) {
  constexpr int most_steps = 20;
  constexpr double far = 0.01, too_short = 1e-15; // of the region; of the variables' sizes
  Vector gradient, values, y = Vector::Zero(multipliers_.size());
  Matrix slopes;
  for (int k = 0; k < most_steps; ++k) {
    look_at_point(x, Order::hessian);
    slopes_at_point(gradient, slopes, values);
    if (!gradient.allFinite() || !slopes.allFinite() || !values.allFinite()) return false;
    std::vector<Held> held = held_at(x, slopes, values);
    if (k == 0) {
      std::vector<Held> pulling = held;
      const Vector balancing = balanced(pulling, gradient);
      set_rows(y, pulling, balancing);
    }
    const Matrix hessian = bends_at_point(y);
    if (!hessian.allFinite()) return false;
    const auto factors = definite_factors(hessian);
    if (!factors) return false;
    Vector found;
    const Vector step = step_along(held, *factors, gradient, found);
    if (!step.allFinite()) return false;
    set_rows(y, held, found);
    x += step;
    keep_in_region(x);
    for (std::size_t i = 0; i < n_; ++i) {
      const double length = std::abs(step[static_cast<Index>(i)]);
      if (region_[i].width() > 0 && length > far * region_[i].width()) return false;
    }
    if (step.cwiseQuotient(sizes_).lpNorm<Eigen::Infinity>() < too_short) break;
  }
  return true;
}

void ProblemOverBoxes::remember(const Vector& best) {
  best_ = best;
  Vector gradient, values;
  Matrix slopes;
  look_at_point(best, Order::gradient);
  slopes_at_point(gradient, slopes, values);
  if (rows() == 0 || !gradient.allFinite() || !slopes.allFinite() || !values.allFinite()) return;
  std::vector<Held> held = held_at(best, slopes, values);
  best_multipliers_.resize(multipliers_.size());
  const Vector found = balanced(held, gradient);
  set_rows(best_multipliers_, held, found);
}

/// The multipliers that make the Lagrangian's gradient as small as it gets, of what does not pull outward; that is let
/// go.
Vector ProblemOverBoxes::balanced(std::vector<Held>& held, const Vector& gradient) {
  while (!held.empty()) {
    Matrix columns(gradient.size(), static_cast<Index>(held.size()));
    for (std::size_t h = 0; h < held.size(); ++h) columns.col(static_cast<Index>(h)) = held[h].slope;
    const Vector found = least_squares(columns, -gradient);
    const auto pulls_outward = [&](const Held& each) {
      return each.side != 0 && found[&each - held.data()] * each.side <= 0;
    };
    const auto out = std::ranges::find_if(held, pulls_outward);
    if (out == held.end()) return found;
    held.erase(out);
  }
  return {};
}

/// The multipliers by row, from those of what holds a point.
void ProblemOverBoxes::set_rows(Vector& by_row, const std::vector<Held>& held, const Vector& multipliers) {
  by_row.setZero();
  for (std::size_t h = 0; h < held.size(); ++h) {
    if (held[h].row >= 0) by_row[held[h].row] = multipliers[static_cast<Index>(h)];
  }
}

void ProblemOverBoxes::keep_in_region(Vector& x) const {
  for (std::size_t i = 0; i < n_; ++i)
    x[static_cast<Index>(i)] = std::clamp(x[static_cast<Index>(i)], region_[i].lower, region_[i].upper);
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
    const Vector step = least_squares(rows, Coordinates(wanted));
    if (!step.allFinite()) return;
    x = from + step;
    keep_in_region(x);
  }
}

} // namespace tanzen::methods
