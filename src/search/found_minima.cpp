#include "tanzen/search/found_minima.hpp"

#include <algorithm>

namespace tanzen {
namespace {

constexpr double apart = 1e-3;

} // namespace

std::size_t FoundMinima::find(const Vector& point) const {
  const auto is_there = [&](const FoundMinimum& minimum) { return are_one_point(minimum.point, point, width_, apart); };
  return static_cast<std::size_t>(std::ranges::find_if(minima_, is_there) - minima_.begin());
}

void FoundMinima::add(const Vector& point, double value) {
  const std::size_t k = find(point);
  if (k == minima_.size()) {
    minima_.push_back({point, value, 1});
    return;
  }
  ++minima_[k].times;
  if (value < minima_[k].value) {
    minima_[k].point = point;
    minima_[k].value = value;
  }
}

} // namespace tanzen
