#include "near_points.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {

NearPoints::NearPoints(Index dimension)
    : dimension_(dimension), axes_(std::min(dimension, most_axes)), distance_(std::numeric_limits<double>::infinity()),
      cells_(1) {}

void NearPoints::narrow(double distance) {
  distance_ = distance;
  const auto slices = static_cast<Index>(std::max(1.0, std::floor(1 / distance)));
  if (slices < 2 * slices_) return;
  slices_ = slices;
  Index count = 1;
  for (Index axis = 0; axis < axes_; ++axis) count *= slices_;
  cells_.assign(static_cast<std::size_t>(count), {});
  for (Index k = 0; k < size(); ++k) cell_of(k).push_back(k);
}

void NearPoints::add(const Vector& point) {
  coordinates_.insert(coordinates_.end(), point.begin(), point.end());
  cell_of(size() - 1).push_back(size() - 1);
}

Index NearPoints::slice(double coordinate) const {
  const auto slices = static_cast<double>(slices_);
  return static_cast<Index>(std::clamp(std::floor(coordinate * slices), 0.0, slices - 1));
}

std::vector<Index>& NearPoints::cell_of(Index k) {
  Index cell = 0;
  for (Index axis = 0; axis < axes_; ++axis) cell = cell * slices_ + slice(at(k)[axis]);
  return cells_[static_cast<std::size_t>(cell)];
}

} // namespace tanzen::methods
