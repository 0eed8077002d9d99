#pragma once

#include "tanzen/numeric/vector.hpp"

#include <algorithm>
#include <limits>

namespace tanzen::methods {

/// The last steps and changes of the gradient, and what they say of the inverse Hessian (Nocedal and Wright, 2006,
/// section 7.2).
class StepMemory {
 public:
  StepMemory(Index n, Index memory) : steps_(n, memory), changes_(n, memory), products_(memory), weights_(memory) {}

  [[nodiscard]] bool empty() const { return count_ == 0; }
  void clear() { count_ = 0; }

  /// Where the next step and change are written; `keep` makes them count, unless the curvature along the step is not
  /// positive.
  [[nodiscard]] auto next_step() { return steps_.col(next_); }
  [[nodiscard]] auto next_change() { return changes_.col(next_); }
  void keep() {
    const double product = steps_.col(next_).dot(changes_.col(next_));
    const double scale = steps_.col(next_).norm() * changes_.col(next_).norm();
    if (!(product > std::numeric_limits<double>::epsilon() * scale)) {
      count_ = std::min(count_, steps_.cols() - 1); // it was written over the oldest
      return;
    }
    products_[next_] = product;
    next_ = (next_ + 1) % steps_.cols();
    count_ = std::min(count_ + 1, steps_.cols());
  }
  void learn(const Vector& s, const Vector& y) {
    next_step() = s;
    next_change() = y;
    keep();
  }
  void forget() { clear(); }

  /// `q` becomes the estimate of the inverse Hessian times `q` (algorithm 7.4).
  void multiply(Vector& q) {
    for (Index k = 1; k <= count_; ++k) {
      const Index i = place(k);
      weights_[i] = steps_.col(i).dot(q) / products_[i];
      q -= weights_[i] * changes_.col(i);
    }
    if (count_ > 0) q *= products_[place(1)] / changes_.col(place(1)).squaredNorm(); // equation 7.20
    for (Index k = count_; k >= 1; --k) {
      const Index i = place(k);
      q += (weights_[i] - changes_.col(i).dot(q) / products_[i]) * steps_.col(i);
    }
  }

 private:
  /// Of the k-th last pair.
  [[nodiscard]] Index place(Index k) const { return (next_ - k + steps_.cols()) % steps_.cols(); }

  Matrix steps_, changes_;
  Vector products_, weights_;
  Index next_ = 0;
  Index count_ = 0;
};

} // namespace tanzen::methods
