#pragma once

#include "tanzen/numeric/vector.hpp"

#include <array>
#include <vector>

namespace tanzen::methods {

/// A growing number of points about the unit cube, asked for those that lie within a distance of one of them, which
/// only gets smaller. Cells over the first few coordinates keep the cost of asking to the points near by.
class NearPoints {
 public:
  explicit NearPoints(Index dimension);

  [[nodiscard]] Index size() const { return static_cast<Index>(coordinates_.size()) / dimension_; }
  /// From now on `distance` is what counts as near; it was not smaller before. Order of the points where cells are
  /// made anew, which is when they are less than half as wide.
  void narrow(double distance);
  /// Adds one; its place is the size before.
  void add(const Vector& point);

  /// Calls `visit(other, squared distance)` for the others within the distance of point `k`.
  template <class Visit>
  void visit(Index k, const Visit& visit) const {
    const double* const here = at(k);
    const auto look = [&](const std::vector<Index>& cell) {
      for (const Index other : cell) {
        const double* const there = at(other);
        double squared = 0;
        for (Index j = 0; j < dimension_; ++j) squared += (here[j] - there[j]) * (here[j] - there[j]);
        if (other != k && squared <= distance_ * distance_) visit(other, squared);
      }
    };
    visit_cells(here, 0, 0, look);
  }

 private:
  static constexpr Index most_axes = 4;

  [[nodiscard]] const double* at(Index k) const { return coordinates_.data() + k * dimension_; }
  [[nodiscard]] Index slice(double coordinate) const;
  [[nodiscard]] std::vector<Index>& cell_of(Index k);

  template <class Look>
  void visit_cells(const double* here, Index axis, Index cell, const Look& look) const {
    if (axis == axes_) return look(cells_[static_cast<std::size_t>(cell)]);
    const Index last = slice(here[axis] + distance_);
    for (Index k = slice(here[axis] - distance_); k <= last; ++k) visit_cells(here, axis + 1, cell * slices_ + k, look);
  }

  Index dimension_, axes_;
  Index slices_ = 1; ///< of an axis
  double distance_;
  std::vector<double> coordinates_; ///< point after point
  std::vector<std::vector<Index>> cells_;
};

} // namespace tanzen::methods
