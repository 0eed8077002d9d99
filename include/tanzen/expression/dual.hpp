#pragma once

namespace tanzen::rules {

/// A number and its change along one direction: what Hessian products are computed with.
struct Dual {
  double value = 0;
  double change = 0;

  Dual() = default;
  Dual(double v) : value(v) {}
  Dual(double v, double d) : value(v), change(d) {}

  Dual& operator+=(const Dual& other) {
    value += other.value;
    change += other.change;
    return *this;
  }
};

} // namespace tanzen::rules
