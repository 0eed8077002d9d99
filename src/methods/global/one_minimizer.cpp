// That a box holds exactly one minimizer.
#include "problem_over_boxes.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

/// What a minimizer in the box is supposed to be: where it is, what holds it, and what of its variables move.
std::optional<ProblemOverBoxes::Supposed> ProblemOverBoxes::supposed_minimizer(const Sides& box) {
  Supposed at{.point = Vector(static_cast<Index>(n_)), .moves = std::vector<char>(n_, 1), .face = std::vector<int>(n_)};
  for (std::size_t i = 0; i < n_; ++i) {
    const double x = best_.size() > 0 ? best_[static_cast<Index>(i)] : box[i].middle();
    at.point[static_cast<Index>(i)] = box[i].contains(x) ? x : box[i].middle();
  }
  Vector polished = at.point;
  if (newton_along_rows(polished)) at.point = polished;
  Vector gradient, values;
  Matrix slopes;
  look_at_point(at.point, Order::gradient);
  slopes_at_point(gradient, slopes, values);
  if (!gradient.allFinite() || !slopes.allFinite() || !values.allFinite()) return std::nullopt;
  std::vector<Held> held = held_at(at.point, slopes, values);
  const Vector multipliers = balanced(held, gradient);
  for (std::size_t h = 0; h < held.size(); ++h) {
    if (held[h].row >= 0) {
      at.rows.push_back({static_cast<std::size_t>(held[h].row), held[h].side, multipliers[static_cast<Index>(h)]});
      continue;
    }
    Index i = 0;
    held[h].slope.maxCoeff(&i);
    const auto side = static_cast<std::size_t>(i);
    at.moves[side] = 0;
    at.face[side] = held[h].side;
    at.point[i] = held[h].side < 0 ? region_[side].lower : region_[side].upper;
  }
  for (std::size_t i = 0; i < n_; ++i) {
    if (region_[i].is_point()) at.moves[i] = 0;
  }
  return at;
}

/// The slope, or a second derivative, of the Lagrangian over the box looked at, with enclosed multipliers.
Enclosure ProblemOverBoxes::lagrangian_slope(std::size_t i, const std::vector<HeldRow>& rows,
                                             std::span<const Enclosure> multipliers,
                                             const IntervalTape::Workspace& work) const {
  Enclosure sum = told(tape_.slope(static_cast<Index>(i), work));
  for (std::size_t k = 0; k < rows.size(); ++k)
    sum = sum + multipliers[k] * tape_.slope(static_cast<Index>(i), work, output_of(rows[k]));
  return sum;
}

Enclosure ProblemOverBoxes::lagrangian_bend(std::size_t i, std::size_t j, const std::vector<HeldRow>& rows,
                                            std::span<const Enclosure> multipliers) const {
  const auto a = static_cast<Index>(i), b = static_cast<Index>(j);
  Enclosure sum = told(tape_.bend(a, b, work_));
  for (std::size_t k = 0; k < rows.size(); ++k)
    sum = sum + multipliers[k] * tape_.bend(a, b, work_, output_of(rows[k]));
  return sum;
}

Index ProblemOverBoxes::output_of(const HeldRow& held) {
  return static_cast<Index>(held.row) + 1;
}

double ProblemOverBoxes::limit_of(const HeldRow& held) const {
  return held.side < 0 ? limits_[held.row].lower : limits_[held.row].upper;
}

/// Newton's step over a box of points and one of multipliers, on the slopes of the Lagrangian by the variables that
/// move and what the held rows are from their limits.
IntervalNewton::Result ProblemOverBoxes::step_with_multipliers(const Supposed& at, Sides& box, Sides& multipliers) {
  std::vector<std::size_t> moving;
  for (std::size_t i = 0; i < n_; ++i) {
    if (at.moves[i] != 0) moving.push_back(i);
  }
  const std::size_t n = moving.size(), m = at.rows.size(), size = n + m;
  if (size == 0) return IntervalNewton::Result::one_zero;
  Sides unknowns, values, jacobian(size * size, 0), middle_multipliers;
  std::vector<double> centre;
  Vector middle(static_cast<Index>(n_));
  for (std::size_t i = 0; i < n_; ++i) middle[static_cast<Index>(i)] = box[i].middle();
  for (const Enclosure& each : multipliers) middle_multipliers.emplace_back(each.middle());
  look_at_point(middle, Order::gradient);
  for (const std::size_t i : moving) {
    unknowns.push_back(box[i]);
    centre.push_back(box[i].middle());
    values.push_back(lagrangian_slope(i, at.rows, middle_multipliers, point_work_));
  }
  for (std::size_t k = 0; k < m; ++k) {
    unknowns.push_back(multipliers[k]);
    centre.push_back(multipliers[k].middle());
    values.push_back(tape_.value(point_work_, output_of(at.rows[k])) - Enclosure(limit_of(at.rows[k])));
  }
  (void)look_at(box, Order::hessian);
  if (!is_smooth()) return IntervalNewton::Result::nothing;
  for (std::size_t a = 0; a < n; ++a) {
    for (std::size_t b = 0; b < n; ++b)
      jacobian[a * size + b] = lagrangian_bend(moving[a], moving[b], at.rows, multipliers);
    for (std::size_t k = 0; k < m; ++k)
      jacobian[a * size + n + k] = jacobian[(n + k) * size + a] =
          tape_.slope(static_cast<Index>(moving[a]), work_, output_of(at.rows[k]));
  }
  IntervalNewton newton;
  const IntervalNewton::Result result = newton.take(jacobian, values, centre, unknowns);
  for (std::size_t a = 0; a < n; ++a) box[moving[a]] = unknowns[a];
  std::copy_n(unknowns.begin() + static_cast<std::ptrdiff_t>(n), m, multipliers.begin());
  return result;
}

/// Whether there is exactly one point in a box around, with multipliers near those supposed, where the Lagrangian is
/// stationary and the rows are at their limits (Hansen and Walster, 2004, section 13.5, with what holds the point
/// known). `box` and `multipliers` become narrower ones that hold it.
bool ProblemOverBoxes::proves_stationary_point(const Supposed& at, Sides& box, Sides& multipliers) {
  Sides around = box;
  for (std::size_t i = 0; i < n_; ++i) {
    const double x = at.point[static_cast<Index>(i)], more = std::max(2 * box[i].width(), 1e-10 * typical_size(i));
    around[i] = at.moves[i] == 0
                    ? Enclosure(x)
                    : common(region_[i], {std::min(box[i].lower, x) - more, std::max(box[i].upper, x) + more});
  }
  for (const double reach : {1e-6, 1e-4, 1e-2}) {
    multipliers.clear();
    for (const HeldRow& row : at.rows) {
      const double half = reach * std::max(1.0, std::abs(row.multiplier));
      multipliers.emplace_back(row.multiplier - half, row.multiplier + half);
    }
    box = around;
    if (step_with_multipliers(at, box, multipliers) != IntervalNewton::Result::one_zero) continue;
    for (int again = 0; again < 3; ++again)
      (void)step_with_multipliers(at, box, multipliers); // what it leaves holds it
    return true;
  }
  return false;
}

/// The multipliers with what `rho` times half of the squares of the held rows, which are `away` from their limits, adds
/// to them. Nothing where what is added to the Lagrangian, t (y + rho t / 2), may be positive at feasible points.
std::optional<ProblemOverBoxes::Sides> ProblemOverBoxes::raised(const Supposed& at, const Sides& multipliers,
                                                                const Sides& away, double rho) {
  constexpr Enclosure not_above{-infinity, 0}, not_below{0, infinity};
  Sides weights;
  for (std::size_t k = 0; k < multipliers.size(); ++k) {
    const int side = at.rows[k].side;
    if (side != 0) {
      const Enclosure feasible = common(away[k], side > 0 ? not_above : not_below);
      const Enclosure pull = multipliers[k] + Enclosure(0.5 * rho) * feasible;
      if (feasible.is_empty() || !(side > 0 ? pull.lower > 0 : pull.upper < 0)) return std::nullopt;
    }
    weights.push_back(multipliers[k] + Enclosure(rho) * away[k]);
  }
  return weights;
}

/// Second derivatives over the box looked at, of the sides that are no points, with what the squares of the held rows
/// add, and the slopes at held faces: z t is at least z / w t^2 for t from 0 to w.
ProblemOverBoxes::Sides ProblemOverBoxes::raised_hessian(const Supposed& at, const Sides& box, const Sides& weights,
                                                         const Sides& slopes, double rho) const {
  std::vector<std::size_t> wide;
  for (std::size_t i = 0; i < n_; ++i) {
    if (!box[i].is_point()) wide.push_back(i);
  }
  Sides hessian;
  for (const std::size_t i : wide) {
    for (const std::size_t j : wide) {
      Enclosure each = lagrangian_bend(i, j, at.rows, weights);
      for (std::size_t k = 0; k < at.rows.size() && rho > 0; ++k) {
        const Enclosure &by_i = tape_.slope(static_cast<Index>(i), work_, output_of(at.rows[k])),
                        &by_j = tape_.slope(static_cast<Index>(j), work_, output_of(at.rows[k]));
        each = each + Enclosure(rho) * (i == j ? square(by_i) : by_i * by_j);
      }
      if (i == j && at.moves[i] == 0) each = each + Enclosure(2) * abs(slopes[i]) / Enclosure(box[i].width());
      hessian.push_back(each);
    }
  }
  return hessian;
}

/// Whether the values of feasible points of a box are above that of the stationary point everywhere else: they are no
/// lower than the Lagrangian, whose slopes lead into the box and which is a bowl.
bool ProblemOverBoxes::rises_all_around(const Supposed& at, const Sides& box, const Sides& found,
                                        const Sides& multipliers) {
  Sides slopes(n_, 0), all(n_), away;
  (void)tape_.evaluate(found, Order::gradient, point_work_);
  for (std::size_t i = 0; i < n_; ++i) {
    all[i] = hull(box[i], found[i]);
    if (at.moves[i] != 0 || region_[i].is_point()) continue;
    slopes[i] = lagrangian_slope(i, at.rows, multipliers, point_work_);
    if (!(at.face[i] < 0 ? slopes[i].lower > 0 : slopes[i].upper < 0)) return false;
  }
  (void)look_at(all, Order::hessian);
  if (!is_smooth()) return false;
  double steepest = 0, most_bent = 1e-3;
  for (const HeldRow& row : at.rows) {
    away.push_back(tape_.value(work_, output_of(row)) - Enclosure(limit_of(row)));
    for (std::size_t i = 0; i < n_; ++i)
      steepest = std::max(steepest, tape_.slope(static_cast<Index>(i), work_, output_of(row)).magnitude());
  }
  for (std::size_t i = 0; i < n_; ++i)
    most_bent = std::max(most_bent, lagrangian_bend(i, i, at.rows, multipliers).magnitude());
  const auto is_wide = [](const Enclosure& side) { return !side.is_point(); };
  const Index count = std::ranges::count_if(all, is_wide);
  for (const double part : {0.0, 1.0, 1e2, 1e4}) { // of rows as bent as the Lagrangian
    if (part > 0 && !(steepest > 0)) return false;
    const double rho = part > 0 ? part * most_bent / (steepest * steepest) : 0;
    const std::optional<Sides> weights = raised(at, multipliers, away, rho);
    if (!weights) return false;
    const Sides hessian = raised_hessian(at, all, *weights, slopes, rho);
    if (inertia(hessian, count).positive == count) return true;
  }
  return false;
}

bool ProblemOverBoxes::holds_one_minimizer(Sides& box) {
  clear_multipliers();
  const std::optional<Supposed> at = supposed_minimizer(box);
  if (!at) return false;
  Sides found = box, multipliers;
  if (!proves_stationary_point(*at, found, multipliers)) return false;
  for (std::size_t k = 0; k < at->rows.size(); ++k) {
    const int side = at->rows[k].side;
    if ((side > 0 && !(multipliers[k].lower > 0)) || (side < 0 && !(multipliers[k].upper < 0))) return false;
  }
  if (!rises_all_around(*at, box, found, multipliers)) return false;
  // It is feasible.
  (void)tape_.evaluate(found, Order::value, point_work_);
  if (!has_value_there()) return false;
  for (std::size_t row = 0; row < rows(); ++row) {
    const bool is_held = std::ranges::any_of(at->rows, [&](const HeldRow& held) { return held.row == row; });
    if (!is_held && !keeps_inequality(row)) return false;
  }
  box = found;
  return true;
}

} // namespace tanzen::methods
