#include "damped_step.hpp"

#include <algorithm>
#include <cmath>
#include <Eigen/QR>

namespace tanzen::methods {

void DampedStep::factor(Eigen::Ref<Matrix> rows, const Vector& residuals) {
  const Index n = rows.cols();
  Eigen::ColPivHouseholderQR<Eigen::Ref<Matrix>> factors(rows);
  const Vector turned = factors.householderQ().adjoint() * residuals;
  const Index tall = std::min(n, rows.rows());
  triangle_.setZero(n, n);
  triangle_.topRows(tall) = factors.matrixQR().topRows(tall).triangularView<Eigen::Upper>();
  target_.setZero(n);
  target_.head(tall) = -turned.head(tall);
  permutation_ = factors.colsPermutation();
  rank_ = factors.rank();
}

void DampedStep::damped(const Vector& scale, double multiplier, Vector& step) {
  const Index n = triangle_.cols();
  Matrix both(2 * n, n);
  both.topRows(n) = triangle_;
  const Vector damping = std::sqrt(multiplier) * (permutation_.inverse() * scale);
  both.bottomRows(n) = damping.asDiagonal();
  Vector right = Vector::Zero(2 * n);
  right.head(n) = target_;
  const Eigen::HouseholderQR<Matrix> factors(both);
  damped_triangle_ = factors.matrixQR().topRows(n).triangularView<Eigen::Upper>();
  const Vector turned = (factors.householderQ().adjoint() * right).head(n);
  step = permutation_ * damped_triangle_.triangularView<Eigen::Upper>().solve(turned);
}

void DampedStep::solve(const Vector& scale, double radius, Vector& step) {
  const Index n = triangle_.cols();
  // The whole step; of a rank that is not full one that leaves the rest at zero.
  Vector whole = Vector::Zero(n);
  if (rank_ > 0)
    whole.head(rank_) = triangle_.topLeftCorner(rank_, rank_).triangularView<Eigen::Upper>().solve(target_.head(rank_));
  step = permutation_ * whole;
  multiplier_ = 0;
  double length = scale.cwiseProduct(step).norm();
  if (length <= 1.1 * radius) return;
  const Vector slope = permutation_ * Vector(triangle_.transpose() * target_);
  double upper = slope.cwiseQuotient(scale).norm() / radius, lower = 0;
  if (rank_ == n) {
    // The function's Newton step at zero bounds the multiplier below, for it is convex.
    const Vector turned = permutation_.inverse() * Vector(scale.cwiseAbs2().cwiseProduct(step) / length);
    const double change = triangle_.transpose().triangularView<Eigen::Lower>().solve(turned).squaredNorm();
    lower = (length - radius) / (radius * change);
  }
  double multiplier = std::clamp(lower, std::max(1e-3 * upper, std::sqrt(lower * upper)), upper);
  constexpr int most_tries = 10;
  for (int k = 0; k < most_tries; ++k) {
    if (!(multiplier > 0)) multiplier = std::max(1e-300, 1e-3 * upper);
    damped(scale, multiplier, step);
    length = scale.cwiseProduct(step).norm();
    const double excess = length - radius;
    if (std::abs(excess) <= 0.1 * radius) break;
    const Vector turned = permutation_.inverse() * Vector(scale.cwiseAbs2().cwiseProduct(step) / length);
    const double change = damped_triangle_.transpose().triangularView<Eigen::Lower>().solve(turned).squaredNorm();
    (excess > 0 ? lower : upper) = excess > 0 ? std::max(lower, multiplier) : std::min(upper, multiplier);
    multiplier = std::max(lower, multiplier + excess / (radius * change));
  }
  multiplier_ = multiplier;
}

} // namespace tanzen::methods
