#pragma once

#include "tanzen/numeric/factors.hpp"
#include "tanzen/numeric/symmetric_eigen.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

namespace tanzen::methods {

/// A model's minimizer within a ball, or nearly so.
struct ModelStep {
  double predicted = 0;       ///< how much the model falls; at least 0
  bool on_edge = false;       ///< the step is as long as the radius
  Index inner_iterations = 0; ///< of conjugate gradients
};

/// The minimizer of g · p + p · H p / 2 over |p| <= radius by the secular equation (Moré and Sorensen, 1983; Nocedal
/// and Wright, 2006, algorithm 4.3), to 1e-10 of the radius. The hard case, or what Cholesky factors cannot tell from
/// it, goes by the eigenvalue decomposition, which costs some twenty times as much.
class NearlyExactStep {
 public:
  explicit NearlyExactStep(Index n);

  /// Takes the Hessian of a point and factors it once.
  void prepare(const Matrix& hessian);
  /// Cost: some four factorizations, n^3 / 3 each, where the step lies on the edge; allocates nothing but in the first
  /// hard case.
  [[nodiscard]] ModelStep find(const Vector& gradient, double radius, Vector& step);

 private:
  /// The step by the Hessian plus a multiple of the identity; false where that is not positive definite.
  [[nodiscard]] bool step_at(double shift, const Vector& gradient, Vector& step);
  /// By Newton's method on the secular equation; false in the hard case.
  [[nodiscard]] bool find_on_edge(const Vector& gradient, double radius, Vector& step);
  void find_by_eigenvectors(const Vector& gradient, double radius, Vector& step);
  [[nodiscard]] double length_at(double shift);

  Matrix hessian_, shifted_;
  double size_ = 0; ///< no eigenvalue of the Hessian is larger
  CholeskyFactors factors_;
  double factored_shift_ = 0; ///< the factors are of the Hessian plus this; NaN where there are none
  bool is_convex_ = false;
  Vector work_;
  std::optional<SymmetricEigen> eigen_; ///< of the Hessian
  bool is_decomposed_ = false;
  Vector coefficients_; ///< of the gradient in the eigenvectors
  Vector scaled_;       ///< of the step
};

/// The dogleg from the steepest descent's minimizer to Newton's point (Powell, 1970; Nocedal and Wright, 2006, equation
/// 4.16). Where the Hessian is not positive definite there is no Newton point, and it is the steepest descent's
/// minimizer within the ball.
class DoglegStep {
 public:
  explicit DoglegStep(Index n) : factors_(n), newton_(n), work_(n) {}

  [[nodiscard]] ModelStep find(const Matrix& hessian, const Vector& gradient, double radius, Vector& step);

 private:
  CholeskyFactors factors_;
  Vector newton_, work_;
};

/// How far along `direction` from `from` the ball ends.
[[nodiscard]] double to_edge(const Vector& from, const Vector& direction, double radius);

/// Conjugate gradients on the model until the ball or a direction of negative curvature ends them, or the residual is a
/// small part of the gradient (Steihaug, 1983; Nocedal and Wright, 2006, algorithm 7.2). With an infinite radius a
/// direction of negative curvature ends them where they are, or at -gradient if it is the first (algorithm 7.1).
class TruncatedStep {
 public:
  TruncatedStep(Index n, Index most_iterations) : most_(most_iterations), residual_(n), direction_(n), product_(n) {}
  explicit TruncatedStep(Index n) : TruncatedStep(n, 2 * n + 10) {}

  /// `times(direction, product)` multiplies by the Hessian.
  template <class Times>
  [[nodiscard]] ModelStep find(Times&& times, const Vector& gradient, double radius, Vector& step) {
    const double norm = gradient.norm();
    const double enough = std::min(0.5, std::sqrt(norm)) * norm;
    ModelStep result;
    step.setZero(gradient.size());
    residual_ = gradient;
    direction_ = -gradient;
    double squared = residual_.squaredNorm();
    while (result.inner_iterations < most_ && std::sqrt(squared) > enough) {
      times(direction_, product_);
      ++result.inner_iterations;
      const double curved = direction_.dot(product_);
      double alpha = squared / curved;
      result.on_edge = !(curved > 0) || (step + alpha * direction_).norm() >= radius;
      if (result.on_edge && std::isinf(radius)) {
        if (result.inner_iterations == 1) step = direction_;
        break;
      }
      if (result.on_edge) alpha = to_edge(step, direction_, radius);
      // Along a conjugate direction the model falls by this much.
      result.predicted += alpha * squared - 0.5 * alpha * alpha * curved;
      step += alpha * direction_;
      if (result.on_edge) break;
      residual_ += alpha * product_;
      const double next = residual_.squaredNorm();
      direction_ = next / squared * direction_ - residual_;
      squared = next;
    }
    return result;
  }

 private:
  Index most_;
  Vector residual_, direction_, product_;
};

} // namespace tanzen::methods
