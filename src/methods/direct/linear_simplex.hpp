#pragma once

#include "tanzen/numeric/factors.hpp"

#include <cmath>
#include <utility>

namespace tanzen::methods {

/// The n + 1 points, what was found there, and the linear functions through them. Points are scaled by the region.
class LinearSimplex {
 public:
  LinearSimplex(Index n, Index m) : points(n, n + 1), values(n + 1), rows(m, n + 1), edges_(n, n), inverse_(n, n) {}

  Matrix points; ///< the first one is the best
  Vector values;
  Matrix rows; ///< the constraints' values, a column a point

  void put_first(Index k) {
    if (k == 0) return;
    points.col(0).swap(points.col(k));
    rows.col(0).swap(rows.col(k));
    std::swap(values[0], values[k]);
    is_measured_ = false;
  }
  void replace(Index k, const Vector& point, double value, const Vector& row_values) {
    points.col(k) = point;
    values[k] = value;
    rows.col(k) = row_values;
    is_measured_ = false;
  }
  /// Takes the edges from the first point, for all that follows. Order n^3 where something has changed since.
  void measure() {
    if (is_measured_) return;
    edges_ = points.rightCols(points.rows()).colwise() - points.col(0);
    inverse_ = inverse_of(edges_);
    is_measured_ = true;
    updates_ = 0;
  }
  /// The same two of a simplex that is measured, which it stays, in order n^2, but for every so many that are measured
  /// anew, for rounding adds up.
  void put_first_measured(Index k) {
    if (k == 0) return;
    const bool was_measured = is_measured_;
    put_first(k);
    if (!was_measured) return;
    // The edges from another point: E M, where M is its own inverse.
    const Vector to_it = edges_.col(k - 1);
    edges_.colwise() -= to_it;
    edges_.col(k - 1) = -to_it;
    inverse_.row(k - 1) = (-inverse_.colwise().sum()).eval();
    count_update();
  }
  void replace_measured(Index k, const Vector& point, double value, const Vector& row_values) {
    const bool was_measured = is_measured_ && k > 0;
    replace(k, point, value, row_values);
    if (!was_measured) return;
    // One column changes: Sherman and Morrison, 1950.
    const Vector change = point - points.col(0) - edges_.col(k - 1);
    const Vector along = inverse_ * change;
    const double pivot = 1 + along[k - 1];
    if (!(std::abs(pivot) > 1e-3)) return; // nearly flat: to be measured anew
    edges_.col(k - 1) += change;
    inverse_ -= ((along / pivot) * inverse_.row(k - 1)).eval();
    count_update();
  }
  /// The coefficients of a linear function that is 0 at all points but k, and 1 there; k from 1.
  [[nodiscard]] auto coefficients(Index k) const { return inverse_.row(k - 1); }
  /// How far point k is from the first.
  [[nodiscard]] double edge(Index k) const { return edges_.col(k - 1).norm(); }
  /// How far point k is from the plane through the others.
  [[nodiscard]] double height(Index k) const { return 1 / inverse_.row(k - 1).norm(); }
  [[nodiscard]] Vector gradient() const {
    return inverse_.transpose() * (values.tail(points.rows()).array() - values[0]).matrix();
  }
  [[nodiscard]] Matrix jacobian() const { return (rows.rightCols(points.rows()).colwise() - rows.col(0)) * inverse_; }

 private:
  void count_update() {
    constexpr int most = 50;
    is_measured_ = ++updates_ < most;
  }

  Matrix edges_, inverse_;
  bool is_measured_ = false;
  int updates_ = 0;
};

} // namespace tanzen::methods
