#include "tanzen/problem/bounds.hpp"
#include "tanzen/numeric/constants.hpp"

namespace tanzen {

Bounds::Bounds(Index dimension) {
  box_ =
      std::make_shared<const Box>(Box{Vector::Constant(dimension, -infinity), Vector::Constant(dimension, infinity)});
}

bool Bounds::any() const {
  return box_->lower.array().isFinite().any() || box_->upper.array().isFinite().any();
}

double Bounds::violation(const Vector& x) const {
  return (box_->lower - x).cwiseMax(0).sum() + (x - box_->upper).cwiseMax(0).sum();
}

double Bounds::projected_gradient_norm(const Vector& x, const Vector& gradient) const {
  return ((x - gradient).cwiseMax(box_->lower).cwiseMin(box_->upper) - x).norm();
}

} // namespace tanzen
