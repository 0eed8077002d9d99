#pragma once

#include "damped_step.hpp"

#include <cmath>
#include <limits>

namespace tanzen::methods {

/// The step of a linear least-squares model within a scaled radius along two straight pieces: down the slope to the
/// least point there, then to the whole step (Powell, 1970; Nocedal and Wright, 2006, section 4.1).
class ResidualDogleg {
 public:
  /// As DampedStep.
  void factor(const Matrix& rows, const Vector& residuals) { whole_.factor(rows, residuals); }

  /// The step with |scale step| at most `radius`. Requires `factor`; `scale` is above 0. Cost: n^2.
  void solve(const Vector& scale, double radius, Vector& step) {
    whole_.solve(scale, std::numeric_limits<double>::infinity(), step);
    part_ = 2;
    if (scale.cwiseProduct(step).norm() <= radius) return;
    const Vector slope = whole_.half_slope();
    const Vector down = -slope.cwiseQuotient(scale.cwiseAbs2());
    const double bend = whole_.change(down);
    const Vector least = -slope.dot(down) / (bend * bend) * down;
    const double length = scale.cwiseProduct(least).norm();
    if (!(length < radius)) {
      part_ = radius / length;
      step = radius / scale.cwiseProduct(down).norm() * down;
      return;
    }
    // Where the second piece leaves the radius.
    const Vector a = scale.cwiseProduct(least), b = scale.cwiseProduct(step - least);
    const double half = a.dot(b), square = b.squaredNorm(), left = radius * radius - length * length;
    const double along = left / (half + std::sqrt(half * half + square * left));
    part_ = 1 + along;
    step = least + along * (step - least);
  }

  /// How far along the pieces: 1 at the least point down the slope, 2 at the whole step.
  [[nodiscard]] double told() const { return part_; }
  static constexpr const char* column = "part";

 private:
  DampedStep whole_;
  double part_ = 0;
};

} // namespace tanzen::methods
