#include "box_step.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {
namespace {

constexpr Index most_exact = 60; ///< above, factors for every step take too long

} // namespace

BoxStep::BoxStep(Index n) : residual_(n), direction_(n), product_(n), fixed_(static_cast<std::size_t>(n)) {
  if (n <= most_exact) exact_.emplace(n);
}

void BoxStep::find(InterpolationModel& model, double radius, const Vector& lower, const Vector& upper, Vector& step) {
  if (exact_ && find_exact(model, radius, lower, upper, step)) return;
  find_by_conjugate_gradients(model, radius, lower, upper, step);
}

bool BoxStep::find_exact(InterpolationModel& model, double radius, const Vector& lower, const Vector& upper,
                         Vector& step) {
  model.hessian(hessian_);
  if (!hessian_.allFinite() || !model.gradient().allFinite()) return false;
  exact_->prepare(hessian_);
  (void)exact_->find(model.gradient(), radius, step);
  return step.allFinite() && (step.array() >= lower.array()).all() && (step.array() <= upper.array()).all();
}

void BoxStep::find_by_conjugate_gradients(InterpolationModel& model, double radius, const Vector& lower,
                                          const Vector& upper, Vector& step) {
  const Index n = lower.size();
  step.setZero(n);
  std::ranges::fill(fixed_, char{0});
  const auto fix_blocked = [&] {
    for (Index i = 0; i < n; ++i) {
      const bool blocked = (step[i] <= lower[i] && residual_[i] < 0) || (step[i] >= upper[i] && residual_[i] > 0);
      if (blocked) fixed_[static_cast<std::size_t>(i)] = 1;
      if (fixed_[static_cast<std::size_t>(i)] != 0) residual_[i] = 0;
    }
  };
  residual_ = -model.gradient();
  fix_blocked();
  const double enough = 1e-4 * residual_.norm();
  double squared = residual_.squaredNorm();
  direction_ = residual_;
  for (Index k = 0; k < 3 * n && std::sqrt(squared) > enough; ++k) {
    model.hessian_times(direction_, product_);
    const double curved = direction_.dot(product_);
    const double edge = to_edge(step, direction_, radius);
    double room = std::numeric_limits<double>::infinity();
    Index stops = -1;
    for (Index i = 0; i < n; ++i) {
      if (direction_[i] == 0) continue;
      const double limit = direction_[i] > 0 ? upper[i] : lower[i];
      const double length = std::max(0.0, (limit - step[i]) / direction_[i]);
      if (length < room) {
        room = length;
        stops = i;
      }
    }
    const double wanted = curved > 0 ? squared / curved : std::numeric_limits<double>::infinity();
    const double length = std::min({wanted, edge, room});
    step += length * direction_;
    if (length == edge) break;
    residual_ -= length * product_;
    if (length == room) {
      step[stops] = direction_[stops] > 0 ? upper[stops] : lower[stops];
      fixed_[static_cast<std::size_t>(stops)] = 1;
    }
    fix_blocked();
    const double next = residual_.squaredNorm();
    if (length == room)
      direction_ = residual_; // the conjugate directions begin anew in what is free
    else
      direction_ = residual_ + next / squared * direction_;
    for (Index i = 0; i < n; ++i) {
      if (fixed_[static_cast<std::size_t>(i)] != 0) direction_[i] = 0;
    }
    squared = next;
  }
}

} // namespace tanzen::methods
