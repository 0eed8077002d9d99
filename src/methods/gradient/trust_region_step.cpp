#include "tanzen/methods/gradient/trust_region_step.hpp"

#include <algorithm>
#include <limits>

namespace tanzen::methods {
namespace {

double model_fall(const Matrix& hessian, const Vector& gradient, const Vector& step, Vector& work) {
  work.noalias() = hessian * step;
  return -(gradient.dot(step) + 0.5 * step.dot(work));
}

} // namespace

double to_edge(const Vector& from, const Vector& direction, double radius) {
  const double a = direction.squaredNorm(), b = from.dot(direction), c = from.squaredNorm() - radius * radius;
  const double root = std::sqrt(std::max(0.0, b * b - a * c));
  return b > 0 ? -c / (b + root) : (root - b) / a;
}

NearlyExactStep::NearlyExactStep(Index n) : hessian_(n, n), shifted_(n, n), factors_(n), work_(n) {}

void NearlyExactStep::prepare(const Matrix& hessian) {
  hessian_ = hessian;
  is_convex_ = factors_.compute(hessian_);
  factored_shift_ = is_convex_ ? 0 : std::numeric_limits<double>::quiet_NaN();
  is_decomposed_ = false;
  size_ = hessian_.cwiseAbs().rowwise().sum().maxCoeff();
}

bool NearlyExactStep::step_at(double shift, const Vector& gradient, Vector& step) {
  if (shift != factored_shift_) {
    shifted_ = hessian_;
    shifted_.diagonal().array() += shift;
    if (!factors_.compute(shifted_)) {
      factored_shift_ = std::numeric_limits<double>::quiet_NaN();
      return false;
    }
    factored_shift_ = shift;
  }
  step = -gradient;
  factors_.solve_in_place(step);
  return step.allFinite();
}

ModelStep NearlyExactStep::find(const Vector& gradient, double radius, Vector& step) {
  ModelStep result;
  if (!is_convex_ || !step_at(0, gradient, step) || step.norm() > radius) {
    result.on_edge = true;
    if (!find_on_edge(gradient, radius, step)) find_by_eigenvectors(gradient, radius, step);
  }
  result.predicted = model_fall(hessian_, gradient, step, work_);
  return result;
}

bool NearlyExactStep::find_on_edge(const Vector& gradient, double radius, Vector& step) {
  constexpr int most_factors = 30;
  const double wanted = gradient.norm() / radius, least = hessian_.diagonal().minCoeff();
  // Shifts of at most `singular` make no positive definite matrix; the one wanted lies between `low` and `high`.
  double singular = is_convex_ ? 0 : std::max(0.0, -least);
  double low = std::max({0.0, singular, wanted - size_}), high = wanted + size_;
  double shift = is_convex_ ? low : std::max(low, 1e-3 * high);
  for (int k = 0; k < most_factors; ++k) {
    if (!step_at(shift, gradient, step)) {
      low = singular = std::max(singular, shift);
      shift = std::max(std::sqrt(low * high), low + 0.01 * (high - low));
      if (!(high - low > 1e-10 * high)) return false;
      continue;
    }
    const double length = step.norm();
    if (std::abs(length - radius) <= 1e-10 * radius) return true;
    (length > radius ? low : high) = shift;
    if (!(high - low > 1e-14 * high)) return length <= radius && high - singular > 1e-8 * high;
    work_ = step;
    factors_.solve_lower_in_place(work_);
    const double newton = shift + length * length / work_.squaredNorm() * (length - radius) / radius; // (3.12)
    const bool is_sound = newton > singular && newton >= low && newton <= high;
    shift = is_sound ? newton : std::max(std::sqrt(low * high), low + 0.01 * (high - low));
  }
  return false;
}

double NearlyExactStep::length_at(double shift) {
  scaled_ = -coefficients_.array() / (eigen_->values().array() + shift);
  return scaled_.norm();
}

void NearlyExactStep::find_by_eigenvectors(const Vector& gradient, double radius, Vector& step) {
  if (!eigen_) eigen_.emplace(hessian_.rows());
  if (!is_decomposed_) eigen_->compute(hessian_);
  is_decomposed_ = true;
  const auto& curvatures = eigen_->values();
  coefficients_.noalias() = eigen_->vectors().transpose() * gradient;
  const double scale = std::max(std::abs(curvatures[0]), std::abs(curvatures[curvatures.size() - 1]));
  const double least = std::max(0.0, -curvatures[0]);
  // The hard case: without a part along the least curvature the step is too short whatever the shift.
  const double tiny = 1e-14 * std::max(coefficients_.norm(), scale * radius);
  for (Index i = 0; i < curvatures.size() && curvatures[i] <= curvatures[0] + 1e-12 * scale; ++i) {
    if (std::abs(coefficients_[i]) <= tiny) coefficients_[i] = 0;
  }
  double low = least, high = least + coefficients_.norm() / radius + 1e-14 * scale;
  const double edge = least + 1e-14 * std::max(scale, 1e-300);
  if (length_at(edge) < radius) {
    scaled_ =
        (curvatures.array() + least <= 1e-12 * scale).select(Vector::Zero(curvatures.size()).array(), scaled_.array());
    scaled_[0] = std::sqrt(std::max(0.0, radius * radius - scaled_.squaredNorm()));
  } else {
    double shift = std::max(edge, coefficients_.norm() / radius - curvatures[curvatures.size() - 1]);
    for (int k = 0; k < 100; ++k) {
      const double length = length_at(shift);
      if (std::abs(length - radius) <= 1e-10 * radius) break;
      (length > radius ? low : high) = shift;
      const double slope = (scaled_.array().square() / (curvatures.array() + shift)).sum();
      const double newton = shift + length * length / slope * (length - radius) / radius;
      shift = newton > low && newton < high ? newton : 0.5 * (low + high);
    }
  }
  step.noalias() = eigen_->vectors() * scaled_;
}

ModelStep DoglegStep::find(const Matrix& hessian, const Vector& gradient, double radius, Vector& step) {
  ModelStep result;
  work_.noalias() = hessian * gradient;
  const double curved = gradient.dot(work_), norm = gradient.norm();
  const bool has_newton = factors_.compute(hessian);
  if (has_newton) {
    newton_ = -gradient;
    factors_.solve_in_place(newton_);
  }
  if (has_newton && newton_.norm() <= radius) {
    step = newton_;
  } else {
    const double along = curved > 0 ? std::min(norm * norm / curved, radius / norm) : radius / norm;
    step = -along * gradient;
    result.on_edge = along * norm >= (1 - 1e-12) * radius;
    if (has_newton && !result.on_edge) {
      newton_ -= step;
      step += std::min(1.0, to_edge(step, newton_, radius)) * newton_;
      result.on_edge = true;
    }
  }
  result.predicted = model_fall(hessian, gradient, step, work_);
  return result;
}

} // namespace tanzen::methods
