#include "damped_step.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

void DampedStep::factor(const Matrix& rows, const Vector& residuals) {
  const Index n = rows.cols(), tall = std::min(n, rows.rows());
  factors_.compute(rows);
  target_.setZero(n);
  target_.head(tall) = -factors_.turned(residuals).head(tall);
}

void DampedStep::damped(const Vector& scale, double multiplier, Vector& step) {
  const Matrix& triangle = factors_.triangle();
  const auto& permutation = factors_.permutation();
  const Index n = triangle.cols();
  // With the target as one more column the triangle has the turned target beside it.
  Matrix both = Matrix::Zero(2 * n + 1, n + 1);
  both.topLeftCorner(n, n) = triangle;
  both.col(n).head(n) = target_;
  const Vector damping = std::sqrt(multiplier) * (permutation.inverse() * scale);
  both.block(n, 0, n, n) = damping.asDiagonal();
  const Matrix reduced = triangle_of(both);
  damped_triangle_ = reduced.topLeftCorner(n, n);
  step = permutation * damped_triangle_.triangularView<Eigen::Upper>().solve(reduced.col(n).head(n));
}

void DampedStep::solve(const Vector& scale, double radius, Vector& step) {
  const Matrix& triangle = factors_.triangle();
  const auto& permutation = factors_.permutation();
  const Index n = triangle.cols(), rank = factors_.rank();
  // The whole step; of a rank that is not full one that leaves the rest at zero.
  Vector whole = Vector::Zero(n);
  if (rank > 0)
    whole.head(rank) = triangle.topLeftCorner(rank, rank).triangularView<Eigen::Upper>().solve(target_.head(rank));
  step = permutation * whole;
  multiplier_ = 0;
  double length = scale.cwiseProduct(step).norm();
  if (length <= 1.1 * radius) return;
  const Vector slope = permutation * Vector(triangle.transpose() * target_);
  double upper = slope.cwiseQuotient(scale).norm() / radius, lower = 0;
  if (rank == n) {
    // The function's Newton step at zero bounds the multiplier below, for it is convex.
    const Vector turned = permutation.inverse() * Vector(scale.cwiseAbs2().cwiseProduct(step) / length);
    const double change = triangle.transpose().triangularView<Eigen::Lower>().solve(turned).squaredNorm();
    lower = std::min(upper, (length - radius) / (radius * change)); // above it by rounding alone
  }
  double multiplier = std::clamp(lower, std::max(1e-3 * upper, std::sqrt(lower * upper)), upper);
  constexpr int most_tries = 10;
  for (int k = 0; k < most_tries; ++k) {
    if (!(multiplier > 0)) multiplier = std::max(1e-300, 1e-3 * upper);
    damped(scale, multiplier, step);
    length = scale.cwiseProduct(step).norm();
    const double excess = length - radius;
    if (std::abs(excess) <= 0.1 * radius) break;
    const Vector turned = permutation.inverse() * Vector(scale.cwiseAbs2().cwiseProduct(step) / length);
    const double change = damped_triangle_.transpose().triangularView<Eigen::Lower>().solve(turned).squaredNorm();
    (excess > 0 ? lower : upper) = excess > 0 ? std::max(lower, multiplier) : std::min(upper, multiplier);
    multiplier = std::max(lower, multiplier + excess / (radius * change));
  }
  multiplier_ = multiplier;
}

} // namespace tanzen::methods
