#include "interpolation_model.hpp"

#include "tanzen/methods/population/population.hpp"
#include "tanzen/numeric/factors.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

InterpolationModel::InterpolationModel(Index n, Index most)
    : n_(n), most_(std::max(2 * n + 1, std::min(most, (n + 1) * (n + 2) / 2))), points_(n, most_), values_(most_),
      base_(n), places_(n, most_), factor_(most_, most_), rows_(n, most_), square_(n, n), gradient_(n),
      hessian_(Matrix::Zero(n, n)), weights_(Vector::Zero(most_)), step_(n), here_(n), lagrange_(most_), slopes_(n),
      products_(most_), along_(most_), turned_(most_), half_(n), work_(n), to_(n) {}

void InterpolationModel::begin(const Matrix& points, const Vector& values) {
  size_ = points.cols();
  points_.leftCols(size_) = points;
  values_.head(size_) = values;
  values.minCoeff(&best_);
  hessian_.setZero();
  build_system();
  weights_.head(size_).noalias() = factor() * (factor().transpose() * values_.head(size_));
  gradient_.noalias() = rows() * values_.head(size_);
}

void InterpolationModel::rebase() {
  hessian_.noalias() += places() * weights_.head(size_).asDiagonal() * places().transpose();
  build_system();
  // What rounding has left between the model and the values goes in with the least change.
  Vector errors = values_.head(size_).array() - values_[best_];
  for (Index k = 0; k < size_; ++k) {
    work_.noalias() = hessian_ * place(k);
    errors[k] -= place(k).dot(gradient_ + 0.5 * work_);
  }
  weights_.head(size_).noalias() = factor() * (factor().transpose() * errors);
  gradient_.noalias() += rows() * errors;
}

/// Takes the best point for the base and builds the inverse of the interpolation system (2004, equation 3.4) from it
/// outwards: first of as many points as a linear model needs, each well away from the span of those before, then of one
/// more at a time. What hardly adds to the others would ruin it, and is left out.
void InterpolationModel::build_system() {
  const Matrix old_points = points();
  const Vector old_values = values_.head(size_);
  base_ = old_points.col(best_);
  const Matrix old_places = old_points.colwise() - base_;
  const Vector distances = old_places.colwise().norm();
  std::vector<Index> order, chosen{best_};
  sort_by_value(distances, order);
  std::erase(order, best_);
  Matrix basis(n_, n_);
  for (double least = 0.1; least > 1e-12; least *= 0.01) {
    std::vector<Index> waiting;
    for (const Index k : order) {
      const auto found = static_cast<Index>(chosen.size()) - 1;
      Vector rest = old_places.col(k) / distances[k];
      for (int twice = 0; twice < 2; ++twice)
        rest -= basis.leftCols(found) * (basis.leftCols(found).transpose() * rest);
      const bool is_taken = found < n_ && rest.norm() > least;
      if (is_taken) basis.col(found) = rest.normalized();
      (is_taken ? chosen : waiting).push_back(k);
    }
    order.swap(waiting);
  }
  best_ = 0;
  size_ = static_cast<Index>(chosen.size());
  columns_ = 0;
  points_.leftCols(size_) = old_points(Eigen::all, chosen);
  places_.leftCols(size_) = old_places(Eigen::all, chosen);
  values_.head(size_) = old_values(chosen);
  const auto spanned = basis.leftCols(size_ - 1);
  const Matrix inverse = inverse_of(spanned.transpose() * places_.middleCols(1, size_ - 1));
  rows_.middleCols(1, size_ - 1).noalias() = spanned * inverse.transpose();
  rows_.col(0) = -rows_.middleCols(1, size_ - 1).rowwise().sum();
  const Matrix products = places().transpose() * places();
  square_.noalias() = -0.5 * rows() * products.cwiseAbs2() * rows().transpose();
  for (const Index k : order) {
    weigh(old_places.col(k));
    if (adds_enough()) append(old_points.col(k), old_values[k]);
  }
  weights_.setZero();
}

/// Adds `factor` times the sum of the places, each times its product with `along` and its entry of `products_`.
void InterpolationModel::add_places(double factor, const Vector& along, Vector& sum) {
  auto inner = along_.head(size_);
  inner.noalias() = places().transpose() * along;
  inner.array() *= factor * products_.head(size_).array();
  sum.noalias() += places() * inner;
}

void InterpolationModel::hessian_times(const Vector& direction, Vector& product) {
  product.noalias() = hessian_ * direction;
  products_ = weights_;
  add_places(1, direction, product);
}

void InterpolationModel::hessian(Matrix& whole) {
  whole = hessian_;
  for (Index k = 0; k < size_; ++k) {
    if (weights_[k] != 0) whole.noalias() += weights_[k] * place(k) * place(k).transpose();
  }
  symmetrize(whole);
}

void InterpolationModel::consider(const Vector& step) {
  hessian_times(step, work_);
  predicted_ = step.dot(gradient_) + 0.5 * step.dot(work_);
  weigh(step);
}

/// w(best + step) - w(best), and what the inverse makes of it (2009, equations 4.10 and 4.11).
void InterpolationModel::weigh(const Vector& step) {
  step_ = step;
  here_ = place(best_); // it may be replaced
  here_value_ = values_[best_];
  auto w = products_.head(size_), along = along_.head(size_), lagrange = lagrange_.head(size_);
  auto turned = turned_.head(columns_);
  along.noalias() = places().transpose() * step;
  w.noalias() = places().transpose() * here_;
  w.array() = along.array() * (0.5 * along.array() + w.array());
  turned.noalias() = factor().transpose() * w;
  half_.noalias() = rows() * w;
  lagrange.noalias() = factor() * turned;
  lagrange.noalias() += rows().transpose() * step;
  lagrange[best_] += 1;
  slopes_ = half_;
  slopes_.noalias() += square_ * step;
  const double forward = step.dot(here_), squared = step.squaredNorm();
  beta_ = forward * forward + squared * (here_.squaredNorm() + 2 * forward + 0.5 * squared) - turned.squaredNorm() -
          step.dot(half_) - step.dot(slopes_);
}

bool InterpolationModel::is_sound() const {
  constexpr double rounding = 1e-6;
  const auto lagrange = lagrange_.head(size_);
  return std::abs(lagrange.sum() - 1) <= rounding * lagrange.cwiseAbs().maxCoeff();
}

bool InterpolationModel::adds_enough() const {
  constexpr double least = 1e-3;
  const double squared = step_.squaredNorm();
  return size_ < most_ && beta_ > least * squared * squared;
}

void InterpolationModel::append(const Vector& point, double value) {
  const double root = std::sqrt(beta_);
  slopes_ /= root;
  lagrange_.head(size_) /= root;
  factor_.row(size_).head(columns_).setZero();
  factor_.col(columns_).head(size_) = lagrange_.head(size_);
  factor_(size_, columns_) = -1 / root;
  rows().noalias() += slopes_ * lagrange_.head(size_).transpose();
  rows_.col(size_) = -slopes_ / root;
  square_.noalias() += slopes_ * slopes_.transpose();
  points_.col(size_) = point;
  places_.col(size_) = point - base_;
  values_[size_] = value;
  weights_[size_] = 0;
  ++size_;
  ++columns_;
}

void InterpolationModel::add(const Vector& point, double value) {
  append(point, value);
  interpolate(size_ - 1);
}

void InterpolationModel::replace(Index t, const Vector& point, double value) {
  const double sigma = denominator(t), tau = lagrange_[t];
  gather(t);
  if (columns_ == 0) factor_.col(0).head(size_).setZero(); // a linear model: Z has no column, its products are zero
  const double first = factor_(t, 0), alpha = first * first, root = std::sqrt(std::abs(sigma));
  auto column = products_.head(size_), lagrange = lagrange_.head(size_);
  auto front = factor_.col(0).head(size_);
  column = first * front;
  half_ = rows_.col(t);
  lagrange[t] -= 1;
  front = tau / root * front - first / root * lagrange;
  work_ = (alpha * slopes_ - tau * half_) / sigma;
  to_ = (beta_ * half_ + tau * slopes_) / sigma;
  rows().noalias() += work_ * lagrange.transpose();
  rows().noalias() -= to_ * column.transpose();
  square_.noalias() += work_ * slopes_.transpose();
  square_.noalias() -= to_ * half_.transpose();
  hessian_.noalias() += weights_[t] * place(t) * place(t).transpose();
  weights_[t] = 0;
  points_.col(t) = point;
  places_.col(t) = point - base_;
  values_[t] = value;
  interpolate(t);
}

/// Row t of Z becomes zero but for its first entry, by rotations of columns (2004, section 4).
void InterpolationModel::gather(Index t) {
  auto first = factor_.col(0).head(size_);
  auto work = products_.head(size_);
  for (Index j = 1; j < columns_; ++j) {
    const double a = first[t], b = factor_(t, j), size = std::hypot(a, b);
    if (b == 0) continue;
    auto other = factor_.col(j).head(size_);
    work = first;
    first = a / size * work + b / size * other;
    other = a / size * other - b / size * work;
    other[t] = 0;
  }
}

/// Z times row t of Z, into `products_`: the second derivative of the t-th Lagrange function, by points.
void InterpolationModel::multiply_by_factor(Index t) {
  auto turned = turned_.head(columns_);
  turned = factor_.row(t).head(columns_).transpose();
  products_.head(size_).noalias() = factor() * turned;
}

/// The new model is the old one and the multiple of the t-th Lagrange function that makes it right at the new point.
void InterpolationModel::interpolate(Index t) {
  const double error = values_[t] - here_value_ - predicted_;
  multiply_by_factor(t);
  weights_.head(size_) += error * products_.head(size_);
  gradient_ += error * rows_.col(t);
  add_places(error, here_, gradient_);
  if (!(values_[t] < here_value_)) return;
  hessian_times(step_, work_);
  gradient_ += work_;
  best_ = t;
}

void InterpolationModel::forget_if_misled() {
  auto fresh = products_.head(size_), changes = lagrange_.head(size_);
  auto turned = turned_.head(columns_);
  changes = values_.head(size_).array() - values_[best_];
  turned.noalias() = factor().transpose() * changes;
  fresh.noalias() = factor() * turned;
  half_.noalias() = rows() * changes;
  here_ = place(best_);
  add_places(1, here_, half_);
  misled_ = gradient_.squaredNorm() >= 10 * half_.squaredNorm() ? misled_ + 1 : 0;
  if (misled_ < 3) return;
  misled_ = 0;
  gradient_ = half_;
  hessian_.setZero();
  weights_.head(size_) = fresh;
}

void InterpolationModel::lagrange_gradient(Index t, Vector& gradient) {
  multiply_by_factor(t);
  gradient = rows_.col(t);
  here_ = place(best_);
  add_places(1, here_, gradient);
}

double InterpolationModel::lagrange_curvature(Index t, const Vector& direction) {
  multiply_by_factor(t);
  auto along = along_.head(size_);
  along.noalias() = places().transpose() * direction;
  return products_.head(size_).dot(along.cwiseAbs2());
}

} // namespace tanzen::methods
