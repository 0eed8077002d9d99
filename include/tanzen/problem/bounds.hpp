#pragma once

#include "tanzen/numeric/vector.hpp"

#include <memory>
#include <utility>

namespace tanzen {

/// Hard limits on the variables; a side may be infinite. A point outside is infeasible. An immutable value, cheap to
/// copy.
class Bounds {
 public:
  /// No limits.
  explicit Bounds(Index dimension);
  explicit Bounds(Box box) : box_(std::make_shared<const Box>(std::move(box))) {}

  [[nodiscard]] const Vector& lower() const { return box_->lower; }
  [[nodiscard]] const Vector& upper() const { return box_->upper; }
  [[nodiscard]] const Box& box() const { return *box_; }
  /// Whether any variable has a limit.
  [[nodiscard]] bool any() const;
  [[nodiscard]] bool contains(const Vector& x) const { return box_->contains(x); }
  /// The sum over the variables of the distance outside; 0 inside.
  [[nodiscard]] double violation(const Vector& x) const;
  /// Moves every coordinate outside to its nearest limit.
  void project(Vector& x) const { x = x.cwiseMax(box_->lower).cwiseMin(box_->upper); }
  /// The norm of x - P(x - g), with P the projection: zero exactly where a first-order minimum within the
  /// bounds is (Conn, Gould and Toint, 2000, section 12.1.1); without bounds the norm of g.
  [[nodiscard]] double projected_gradient_norm(const Vector& x, const Vector& gradient) const;

 private:
  std::shared_ptr<const Box> box_;
};

} // namespace tanzen
