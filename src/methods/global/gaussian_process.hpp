#pragma once

#include "tanzen/numeric/factors.hpp"

#include <cmath>

namespace tanzen::methods {

/// A Gaussian process with constant mean and Matérn 5/2 covariance through values at points of the unit cube.
class GaussianProcess {
 public:
  /// With noise its share of the variance is fitted as the lengths are; without, a billionth keeps the matrix regular.
  GaussianProcess(Index n, bool has_noise)
      : log_lengths_(Vector::Constant(n, -1)), log_nugget_(std::log(has_noise ? 1e-2 : least_nugget)),
        has_noise_(has_noise) {}

  /// Takes all points, one a column, and values, and fits the lengths by the likelihood where asked to, otherwise keeps
  /// them. Returns minus twice the logarithm of the likelihood, less a constant. Order p^3 times the trials of the fit.
  double set(const Matrix& points, const Vector& values, bool fits_lengths);

  /// How far the values reach along each variable, relative to their geometric mean.
  [[nodiscard]] Vector relative_lengths() const { return (log_lengths_.array() - log_lengths_.mean()).exp(); }

  /// Mean and standard deviation at places, one a column.
  struct Prediction {
    Vector mean, deviation;
  };
  [[nodiscard]] Prediction at(const Matrix& places) const;

 private:
  static constexpr double least_nugget = 1e-9;

  /// Minus twice the concentrated logarithm of the likelihood, less a constant; leaves the factors for these lengths.
  double factorize(const Vector& log_lengths, double log_nugget);
  void correlate(const Matrix& a, const Matrix& b, Matrix& correlations) const;

  Matrix points_;
  Vector values_;
  Vector log_lengths_; ///< natural logarithms
  double log_nugget_;  ///< of the noise's variance, as a part of the process's
  bool has_noise_;
  Vector inverse_lengths_;
  Matrix correlations_;
  CholeskyFactors factors_;
  Vector weights_, solved_ones_;
  double mean_ = 0, variance_ = 0, ones_ = 0;
};

} // namespace tanzen::methods
