#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen::methods {

/// The step of a linear least-squares model within a scaled radius: Moré, 1978, algorithm 5.5.
class DampedStep {
 public:
  /// Factors `rows` (which it overwrites) with pivots; `residuals` are those of the rows. Cost: m n^2.
  void factor(Eigen::Ref<Matrix> rows, const Vector& residuals);

  /// The step p that makes |rows p + residuals| least with |scale p| at most `radius`, to a tenth of it. Requires
  /// `factor`; `scale` is above 0. Cost: some n^3 for each multiplier tried, of which two or three do.
  void solve(const Vector& scale, double radius, Vector& step);

  /// The multiplier of the last step; zero for a whole one.
  [[nodiscard]] double told() const { return multiplier_; }
  static constexpr const char* column = "damping";

  /// rows' residuals: half the slope of the sum of squares.
  [[nodiscard]] Vector half_slope() const { return -(permutation_ * Vector(triangle_.transpose() * target_)); }
  /// |rows step|.
  [[nodiscard]] double change(const Vector& step) const { return (triangle_ * (permutation_.inverse() * step)).norm(); }

 private:
  /// The step by the damping sqrt(multiplier) * scale, and the triangle of the damped system.
  void damped(const Vector& scale, double multiplier, Vector& step);

  Matrix triangle_; ///< R of rows * permutation = Q R
  Eigen::PermutationMatrix<Eigen::Dynamic> permutation_;
  Vector target_; ///< -Q' residuals, the first n
  Index rank_ = 0;
  double multiplier_ = 0;
  Matrix damped_triangle_;
};

} // namespace tanzen::methods
