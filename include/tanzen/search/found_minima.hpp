#pragma once

#include "tanzen/numeric/vector.hpp"

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace tanzen {

/// A local minimum that a method is sure of.
struct FoundMinimum {
  Vector point = {};
  double value = 0;
  std::int64_t times = 1; ///< how many local searches led to it
};

/// Local minima, told apart: two closer than a thousandth of the region in every coordinate are one, and the lower of
/// them stays. In the order in which they were found.
class FoundMinima {
 public:
  FoundMinima() = default;
  explicit FoundMinima(const Box& region) : width_(region.width()) {}

  /// Adds one, or counts it once more. Cost: one comparison for each minimum known.
  void add(const Vector& point, double value);
  /// Whether a point lies where a minimum is known.
  [[nodiscard]] bool contains(const Vector& point) const { return find(point) < minima_.size(); }
  [[nodiscard]] const std::vector<FoundMinimum>& all() const { return minima_; }

 private:
  [[nodiscard]] std::size_t find(const Vector& point) const;

  Vector width_;
  std::vector<FoundMinimum> minima_;
};

} // namespace tanzen
