// Bounds of a problem over boxes by convex functions below.
#include "problem_over_boxes.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

/// Of the value, or the Lagrangian with the multipliers that were set. None where the curvatures have no bounds.
std::optional<ProblemOverBoxes::Underestimator> ProblemOverBoxes::underestimator(const Sides& box) const {
  Underestimator below;
  for (std::size_t i = 0; i < n_; ++i) {
    if (!box[i].is_point()) below.sides.push_back(i);
  }
  const std::size_t m = below.sides.size();
  if (m == 0) return std::nullopt;
  std::vector<Enclosure> bends(m * m);
  bool may_be_bowl = true;
  below.middle.resize(static_cast<Index>(m), static_cast<Index>(m));
  for (std::size_t a = 0; a < m; ++a) {
    for (std::size_t b = 0; b <= a; ++b) {
      const Enclosure each = bend(below.sides[a], below.sides[b]);
      if (!each.is_finite()) return std::nullopt;
      bends[a * m + b] = bends[b * m + a] = each;
      below.middle(static_cast<Index>(a), static_cast<Index>(b)) = each.middle();
      below.middle(static_cast<Index>(b), static_cast<Index>(a)) = each.middle();
    }
    may_be_bowl = may_be_bowl && bends[a * m + a].lower > 0;
  }
  below.curving.assign(m, 0);
  if (may_be_bowl) below.reach = reach_of_bowl(bends, static_cast<Index>(m));
  if (below.reach) return below;
  // So much that the diagonal dominates, the coordinates measured by the sides' widths.
  for (std::size_t a = 0; a < m; ++a) {
    Enclosure least = Enclosure(bends[a * m + a].lower);
    const Enclosure width(box[below.sides[a]].width());
    for (std::size_t b = 0; b < m; ++b) {
      if (b == a) continue;
      least = least - Enclosure(bends[a * m + b].magnitude()) * Enclosure(box[below.sides[b]].width()) / width;
    }
    below.curving[a] = std::max(0.0, -least.lower);
    if (!std::isfinite(below.curving[a])) return std::nullopt;
    below.middle(static_cast<Index>(a), static_cast<Index>(a)) += below.curving[a];
  }
  return below;
}

/// At the point looked at, by the k-th of its sides.
Enclosure ProblemOverBoxes::slope_of(const Underestimator& below, std::size_t k, const Sides& box) const {
  const std::size_t i = below.sides[k];
  const Enclosure slope = weighted_slope(i, point_work_);
  if (below.curving[k] == 0) return slope;
  const Enclosure both = (point_[i] - Enclosure(box[i].lower)) + (point_[i] - Enclosure(box[i].upper));
  return slope + Enclosure(0.5 * below.curving[k]) * both;
}

/// About where it is least in the box: Newton steps with one Hessian, that where they begin if it is a bowl, on what
/// the box's faces do not hold. They begin at the best point that was told where that lies in the box, at the box's
/// middle elsewhere.
Vector ProblemOverBoxes::least_of(const Underestimator& below, const Sides& box) {
  constexpr int most_steps = 10;
  constexpr double short_enough = 1e-9; // of the sides
  const auto m = static_cast<Index>(below.sides.size());
  Vector point(static_cast<Index>(n_)), gradient(m);
  bool holds_best = best_.size() > 0;
  for (std::size_t i = 0; i < n_; ++i) holds_best = holds_best && box[i].contains(best_[static_cast<Index>(i)]);
  for (std::size_t i = 0; i < n_; ++i)
    point[static_cast<Index>(i)] = holds_best ? best_[static_cast<Index>(i)] : box[i].middle();
  Matrix everywhere = below.middle;
  for (int step = 0; step < most_steps; ++step) {
    const bool is_first_of_bowl = step == 0 && below.reach;
    look_at_point(point, is_first_of_bowl ? Order::hessian : Order::gradient);
    if (is_first_of_bowl) everywhere = hessian_at_point(below.sides);
    Matrix hessian = everywhere;
    for (Index k = 0; k < m; ++k) {
      const std::size_t i = below.sides[static_cast<std::size_t>(k)];
      const double x = point[static_cast<Index>(i)];
      gradient[k] = slope_of(below, static_cast<std::size_t>(k), box).middle();
      const bool is_held = (x <= box[i].lower && gradient[k] > 0) || (x >= box[i].upper && gradient[k] < 0);
      if (!is_held) continue;
      gradient[k] = 0;
      hessian.row(k).setZero();
      hessian.col(k).setZero();
      hessian(k, k) = 1;
    }
    CholeskyFactors factors(m);
    if (!gradient.allFinite() || !factors.compute(hessian)) break;
    const Vector away = factors.solve(gradient);
    double longest = 0;
    for (Index k = 0; k < m; ++k) {
      const std::size_t i = below.sides[static_cast<std::size_t>(k)];
      double& x = point[static_cast<Index>(i)];
      const double before = x;
      x = std::clamp(x - away[k], box[i].lower, box[i].upper);
      longest = std::max(longest, std::abs(x - before) / box[i].width());
    }
    if (!(longest > short_enough)) break;
  }
  return point;
}

Matrix ProblemOverBoxes::hessian_at_point(const std::vector<std::size_t>& sides) const {
  const Matrix all = bends_at_point(multipliers_);
  const auto m = static_cast<Index>(sides.size());
  Matrix hessian(m, m);
  for (Index a = 0; a < m; ++a) {
    for (Index b = 0; b < m; ++b)
      hessian(a, b) = all(static_cast<Index>(sides[static_cast<std::size_t>(a)]),
                          static_cast<Index>(sides[static_cast<std::size_t>(b)]));
  }
  return hessian;
}

bool ProblemOverBoxes::narrow_by_convexity(double best, Sides& box, double& lower) {
  const std::optional<Underestimator> below = underestimator(box);
  if (!below) return true;
  look_at_point(least_of(*below, box), Order::gradient);
  if (!has_value_there()) return true;
  // The value there, and how far its tangent falls along each side.
  const std::size_t m = below->sides.size();
  std::vector<Enclosure> slopes;
  std::vector<double> falls;
  Enclosure least = weighted_value(point_work_), fall = 0;
  for (std::size_t k = 0; k < m; ++k) {
    const std::size_t i = below->sides[k];
    if (below->curving[k] != 0) {
      const Enclosure both = (point_[i] - Enclosure(box[i].lower)) * (point_[i] - Enclosure(box[i].upper));
      least = least + Enclosure(0.5 * below->curving[k]) * both;
    }
    slopes.push_back(slope_of(*below, k, box));
    falls.push_back((slopes[k] * (box[i] - point_[i])).lower);
    fall = fall + Enclosure(falls[k]);
  }
  const double bound = (least + fall).lower;
  if (!std::isfinite(bound)) return true;
  lower = std::max(lower, bound);
  if (bound > best) return false;
  if (!std::isfinite(best)) return true;
  // What the tangent, and where it is a bowl what lies above the tangent, may rise at most where values are so low.
  const Enclosure room(std::max(0.0, (Enclosure(best) - least - fall).upper));
  for (std::size_t k = 0; k < m; ++k) {
    Enclosure& side = box[below->sides[k]];
    const Enclosure at = point_[below->sides[k]], most = (room + Enclosure(falls[k])) / slopes[k];
    if (slopes[k].lower > 0) side = common(side, {-infinity, (at + most).upper});
    if (slopes[k].upper < 0) side = common(side, {(at + most).lower, infinity});
    if (below->reach) {
      const double reach = (Enclosure((*below->reach)[k]) * sqrt(Enclosure(2) * room)).upper;
      side = common(side, at + Enclosure(-reach, reach));
    }
    if (side.is_empty()) return false;
  }
  return true;
}

} // namespace tanzen::methods
