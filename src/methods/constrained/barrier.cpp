#include "barrier.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

Barrier::Barrier(Vector lower, Vector upper) : lower_(std::move(lower)), upper_(std::move(upper)) {
  reset();
}

bool Barrier::has_lower(Index i) const {
  return std::isfinite(lower_[i]);
}
bool Barrier::has_upper(Index i) const {
  return std::isfinite(upper_[i]);
}

void Barrier::reset() {
  lower_pull_ = lower_.array().isFinite().cast<double>();
  upper_pull_ = upper_.array().isFinite().cast<double>();
}

void Barrier::push_inside(Vector& at) const {
  constexpr double near = 1e-2;
  for (Index i = 0; i < at.size(); ++i) {
    const double width = upper_[i] - lower_[i];
    if (has_lower(i)) at[i] = std::max(at[i], lower_[i] + near * std::min(std::max(1.0, std::abs(lower_[i])), width));
    if (has_upper(i)) at[i] = std::min(at[i], upper_[i] - near * std::min(std::max(1.0, std::abs(upper_[i])), width));
  }
}

double Barrier::value(const Vector& at) const {
  double sum = 0;
  for (Index i = 0; i < at.size(); ++i) {
    if (has_lower(i)) sum -= std::log(at[i] - lower_[i]);
    if (has_upper(i)) sum -= std::log(upper_[i] - at[i]);
  }
  return sum;
}

Vector Barrier::slope(const Vector& at) const {
  return (upper_ - at).cwiseInverse() - (at - lower_).cwiseInverse(); // an infinite distance has none
}

Vector Barrier::curvature(const Vector& at) const {
  return lower_pull_.cwiseQuotient(at - lower_) + upper_pull_.cwiseQuotient(upper_ - at);
}

Vector Barrier::squared_room(const Vector& at) const {
  return (at - lower_).cwiseMin(upper_ - at).cwiseMin(1.0).cwiseAbs2();
}

double Barrier::misfit(const Vector& at, double barrier) const {
  double worst = 0;
  for (Index i = 0; i < at.size(); ++i) {
    if (has_lower(i)) worst = std::max(worst, std::abs((at[i] - lower_[i]) * lower_pull_[i] - barrier));
    if (has_upper(i)) worst = std::max(worst, std::abs((upper_[i] - at[i]) * upper_pull_[i] - barrier));
  }
  return worst;
}

double Barrier::longest(const Vector& at, const Vector& step, double part) const {
  double length = 1;
  for (Index i = 0; i < at.size(); ++i) {
    if (step[i] < 0 && has_lower(i)) length = std::min(length, part * (lower_[i] - at[i]) / step[i]);
    if (step[i] > 0 && has_upper(i)) length = std::min(length, part * (upper_[i] - at[i]) / step[i]);
  }
  return length;
}

void Barrier::move(const Vector& at, const Vector& step, double barrier, double part) {
  Vector low = Vector::Zero(at.size()), high = low;
  double length = 1;
  for (Index i = 0; i < at.size(); ++i) {
    if (has_lower(i)) {
      const double distance = at[i] - lower_[i];
      low[i] = (barrier - lower_pull_[i] * step[i]) / distance - lower_pull_[i];
      if (low[i] < 0) length = std::min(length, -part * lower_pull_[i] / low[i]);
    }
    if (has_upper(i)) {
      const double distance = upper_[i] - at[i];
      high[i] = (barrier + upper_pull_[i] * step[i]) / distance - upper_pull_[i];
      if (high[i] < 0) length = std::min(length, -part * upper_pull_[i] / high[i]);
    }
  }
  lower_pull_ += length * low;
  upper_pull_ += length * high;
}

void Barrier::keep_near(const Vector& at, double barrier) {
  constexpr double reach = 1e10;
  for (Index i = 0; i < at.size(); ++i) {
    if (has_lower(i)) {
      const double primal = barrier / (at[i] - lower_[i]);
      lower_pull_[i] = std::clamp(lower_pull_[i], primal / reach, primal * reach);
    }
    if (has_upper(i)) {
      const double primal = barrier / (upper_[i] - at[i]);
      upper_pull_[i] = std::clamp(upper_pull_[i], primal / reach, primal * reach);
    }
  }
}

} // namespace tanzen::methods
