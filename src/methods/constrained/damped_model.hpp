#pragma once

#include "tanzen/numeric/vector.hpp"

namespace tanzen::methods {

/// B by Powell's damped update (Nocedal and Wright, 2006, procedure 18.2): positive definite whatever the Lagrangian's
/// curvature.
class DampedModel {
 public:
  explicit DampedModel(Index n) : matrix_(Matrix::Identity(n, n)) {}

  [[nodiscard]] const Matrix& matrix() const { return matrix_; }

  /// After a step s along which the Lagrangian's gradient changed by y.
  void update(const Vector& s, const Vector& y) {
    constexpr double least_curved = 0.2;
    const double sy = s.dot(y), length = s.squaredNorm();
    if (!(length > 0) || !y.allFinite()) return;
    if (is_new_ && sy > 0) matrix_.diagonal().setConstant(y.squaredNorm() / sy); // equation 6.20, for B
    is_new_ = false;
    const Vector along = matrix_ * s;
    const double curved = s.dot(along);
    if (!(curved > 0)) return;
    const double theta = sy >= least_curved * curved ? 1 : (1 - least_curved) * curved / (curved - sy);
    const Vector r = theta * y + (1 - theta) * along;
    matrix_ += r * r.transpose() / s.dot(r) - along * along.transpose() / curved;
    symmetrize(matrix_);
  }
  /// As if no step had been seen.
  void restart() {
    matrix_.setIdentity();
    is_new_ = true;
  }

 private:
  Matrix matrix_;
  bool is_new_ = true;
};

} // namespace tanzen::methods
