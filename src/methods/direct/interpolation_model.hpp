#pragma once

#include "tanzen/numeric/vector.hpp"

#include <Eigen/LU>

namespace tanzen::methods {

/// A quadratic that interpolates 2 n + 1 values and changes as little as it can with each new one (Powell, 2004, "Least
/// Frobenius norm updating of quadratic models that satisfy interpolation conditions").
///
/// It works relative to a base, in a unit of length: both are reset now and then, so that rounding does not add up.
/// Allocates nothing after it is made.
class InterpolationModel {
 public:
  explicit InterpolationModel(Index n);

  /// Where the values were taken, one a column, and the values; filled by its owner before the first `rebase`.
  Matrix points;
  Vector values;

  [[nodiscard]] Index size() const { return points.cols(); }
  [[nodiscard]] Index best() const { return best_; }
  [[nodiscard]] auto best_point() const { return points.col(best_); }
  [[nodiscard]] double best_value() const { return values[best_]; }

  /// Makes the best point the base and computes the inverse of the interpolation system anew. With `fresh` the model is
  /// that of least Hessian, otherwise it stays. Order n^3.
  void rebase(double unit, bool fresh);
  /// Whether the best point is so far from the base that rounding begins to tell.
  [[nodiscard]] bool is_far_from_base(double radius) const {
    return (points.col(best_) - base_).squaredNorm() > 100 * radius * radius;
  }

  /// The model's gradient at the best point and its Hessian, in plain units.
  [[nodiscard]] const Vector& gradient_at_best();
  [[nodiscard]] const Matrix& hessian();

  /// Prepares for a value at best point + step: what the model says of it.
  void consider(const Vector& step);
  /// The change of the model from the best point to the one considered.
  [[nodiscard]] double predicted_change() const { return predicted_; }
  /// How much the interpolation system is worth after the point considered has taken the place of `t`: its determinant
  /// grows by this factor.
  [[nodiscard]] double denominator(Index t) const { return inverse_(t, t) * beta_ + hw_[t] * hw_[t]; }
  /// The point considered takes the place of `t`.
  void replace(Index t, const Vector& point, double value);

  /// The t-th Lagrange function, which is 1 at point t and 0 at the others: its gradient at the best point, and its
  /// curvature along a direction, in plain units.
  void lagrange_gradient(Index t, Vector& gradient) const;
  [[nodiscard]] double lagrange_curvature(Index t, const Vector& direction) const;

 private:
  void fill_system();

  Index n_;
  Index best_ = 0;
  double unit_ = 1;
  Vector base_;
  Matrix places_;   ///< (points - base) / unit
  Matrix inverse_;  ///< H, of order 3 n + 2
  Matrix system_;   ///< W
  Vector gradient_; ///< at the base, in the unit
  Matrix hessian_;  ///< in the unit
  Vector plain_gradient_;
  Matrix plain_hessian_;
  Vector place_; ///< of the point considered
  Vector w_, hw_, column_, difference_, along_;
  double beta_ = 0, predicted_ = 0;
  Eigen::PartialPivLU<Matrix> factors_;
};

} // namespace tanzen::methods
