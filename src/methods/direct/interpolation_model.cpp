#include "interpolation_model.hpp"

#include <cmath>

namespace tanzen::methods {

InterpolationModel::InterpolationModel(Index n)
    : points(n, 2 * n + 1), values(2 * n + 1), n_(n), base_(n), places_(n, 2 * n + 1), inverse_(3 * n + 2, 3 * n + 2),
      system_(3 * n + 2, 3 * n + 2), gradient_(Vector::Zero(n)), hessian_(Matrix::Zero(n, n)), plain_gradient_(n),
      plain_hessian_(n, n), place_(n), w_(3 * n + 2), hw_(3 * n + 2), column_(3 * n + 2), difference_(3 * n + 2),
      along_(n), factors_(3 * n + 2) {}

/// The matrix of the interpolation conditions (Powell, 2004): squares of scalar products, then ones and places.
void InterpolationModel::fill_system() {
  const Index m = size();
  system_.setZero();
  for (Index j = 0; j < m; ++j) {
    for (Index i = 0; i < m; ++i) {
      const double product = places_.col(i).dot(places_.col(j));
      system_(i, j) = 0.5 * product * product;
    }
    system_(m, j) = system_(j, m) = 1;
    for (Index i = 0; i < n_; ++i) system_(m + 1 + i, j) = system_(j, m + 1 + i) = places_(i, j);
  }
}

void InterpolationModel::rebase(double unit, bool fresh) {
  const Index m = size();
  values.minCoeff(&best_);
  // The model's own coordinates move and stretch with the base and the unit.
  const double ratio = unit / unit_;
  place_ = (points.col(best_) - base_) / unit_;
  gradient_.noalias() += hessian_ * place_;
  gradient_ *= ratio;
  hessian_ *= ratio * ratio;
  base_ = points.col(best_);
  unit_ = unit;
  places_ = (points.colwise() - base_) / unit_;
  fill_system();
  factors_.compute(system_);
  // The inverse by hand: the solver's own allocates.
  inverse_.setZero();
  for (Index k = 0; k < inverse_.cols(); ++k) inverse_(factors_.permutationP().indices()[k], k) = 1;
  factors_.matrixLU().triangularView<Eigen::UnitLower>().solveInPlace(inverse_);
  factors_.matrixLU().triangularView<Eigen::Upper>().solveInPlace(inverse_);
  symmetrize(inverse_);
  if (!fresh) return;
  const auto weights = w_.head(m);
  w_.head(m).noalias() = inverse_.topLeftCorner(m, m) * values;
  gradient_.noalias() = inverse_.block(m + 1, 0, n_, m) * values;
  hessian_.setZero();
  for (Index k = 0; k < m; ++k) hessian_.noalias() += weights[k] * places_.col(k) * places_.col(k).transpose();
}

const Vector& InterpolationModel::gradient_at_best() {
  plain_gradient_ = gradient_;
  plain_gradient_.noalias() += hessian_ * places_.col(best_);
  plain_gradient_ /= unit_;
  return plain_gradient_;
}

const Matrix& InterpolationModel::hessian() {
  plain_hessian_ = hessian_ / (unit_ * unit_);
  return plain_hessian_;
}

void InterpolationModel::consider(const Vector& step) {
  const Index m = size();
  place_ = step / unit_;
  // g + H (best + step / 2), times the step
  along_ = places_.col(best_) + 0.5 * place_;
  w_.head(n_).noalias() = hessian_ * along_;
  predicted_ = place_.dot(gradient_) + place_.dot(w_.head(n_));
  place_ += places_.col(best_);
  w_.head(m).noalias() = places_.transpose() * place_;
  w_.head(m) = 0.5 * w_.head(m).cwiseAbs2();
  w_[m] = 1;
  w_.tail(n_) = place_;
  hw_.noalias() = inverse_ * w_;
  const double squared = place_.squaredNorm();
  beta_ = 0.5 * squared * squared - w_.dot(hw_);
}

void InterpolationModel::replace(Index t, const Vector& point, double value) {
  const Index m = size();
  const double error = value - values[best_] - predicted_;
  // The updating formula of Powell, 2004, section 2.
  const double alpha = inverse_(t, t), tau = hw_[t], sigma = alpha * beta_ + tau * tau;
  column_ = inverse_.col(t);
  difference_ = -hw_;
  difference_[t] += 1;
  for (Index j = 0; j < inverse_.cols(); ++j) {
    const double for_difference = (alpha * difference_[j] + tau * column_[j]) / sigma;
    const double for_column = (tau * difference_[j] - beta_ * column_[j]) / sigma;
    inverse_.col(j) += for_difference * difference_ + for_column * column_;
  }
  points.col(t) = point;
  places_.col(t) = place_;
  values[t] = value;
  column_ = error * inverse_.col(t);
  gradient_ += column_.tail(n_);
  for (Index k = 0; k < m; ++k) hessian_.noalias() += column_[k] * places_.col(k) * places_.col(k).transpose();
  if (value < values[best_]) best_ = t;
}

void InterpolationModel::lagrange_gradient(Index t, Vector& gradient) const {
  const Index m = size();
  gradient = inverse_.col(t).tail(n_);
  for (Index k = 0; k < m; ++k) gradient += inverse_(k, t) * places_.col(k).dot(places_.col(best_)) * places_.col(k);
  gradient /= unit_;
}

double InterpolationModel::lagrange_curvature(Index t, const Vector& direction) const {
  double sum = 0;
  for (Index k = 0; k < size(); ++k) {
    const double along = places_.col(k).dot(direction) / unit_;
    sum += inverse_(k, t) * along * along;
  }
  return sum;
}

} // namespace tanzen::methods
