#pragma once

#include "tanzen/numeric/orthogonal.hpp"

namespace tanzen::methods {

/// The step of a linear least-squares model within a scaled radius: Moré, 1978, algorithm 5.5.
class DampedStep {
 public:
  /// Factors `rows` with pivots; `residuals` are those of the rows. Cost: m n^2.
  void factor(const Matrix& rows, const Vector& residuals);

  /// The step p that makes |rows p + residuals| least with |scale p| at most `radius`, to a tenth of it. Requires
  /// `factor`; `scale` is above 0. Cost: some n^3 for each multiplier tried, of which two or three do.
  void solve(const Vector& scale, double radius, Vector& step);

  /// The multiplier of the last step; zero for a whole one.
  [[nodiscard]] double told() const { return multiplier_; }
  static constexpr const char* column = "damping";

  /// rows' residuals: half the slope of the sum of squares.
  [[nodiscard]] Vector half_slope() const {
    return -(factors_.permutation() * Vector(factors_.triangle().transpose() * target_));
  }
  /// |rows step|.
  [[nodiscard]] double change(const Vector& step) const {
    return (factors_.triangle() * (factors_.permutation().inverse() * step)).norm();
  }

 private:
  /// The step by the damping sqrt(multiplier) * scale, and the triangle of the damped system.
  void damped(const Vector& scale, double multiplier, Vector& step);

  PivotedFactors factors_;
  Vector target_; ///< -Q' residuals, the first n
  double multiplier_ = 0;
  Matrix damped_triangle_;
};

} // namespace tanzen::methods
