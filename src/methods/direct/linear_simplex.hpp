#pragma once

#include "tanzen/numeric/factors.hpp"

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
  }
  void replace(Index k, const Vector& point, double value, const Vector& row_values) {
    points.col(k) = point;
    values[k] = value;
    rows.col(k) = row_values;
  }
  /// Takes the edges from the first point, for all that follows.
  void measure() {
    edges_ = points.rightCols(points.rows()).colwise() - points.col(0);
    inverse_ = inverse_of(edges_);
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
  Matrix edges_, inverse_;
};

} // namespace tanzen::methods
