#pragma once

#include "tanzen/figure/figure.hpp"

#include <vector>

namespace tanzen {

/// Parts of the screen.
struct Rectangle {
  double left, right, bottom, top;
};

/// Where each panel's axes stand, with room for what is named beside them.
[[nodiscard]] std::vector<Rectangle> layout(const Figure& figure);

/// Places on an axis of length 1 that are at least `gap` apart and as near to those wanted as that allows; in the order
/// given. They stay within 0 and 1 where there is room.
[[nodiscard]] std::vector<double> moved_apart(const std::vector<double>& wanted, double gap);

/// Where the names at the ends of a panel's curves stand beside its axes of a height in pixels, from 0 at their bottom
/// to 1.
[[nodiscard]] std::vector<double> end_label_places(const Panel& panel, double height);

/// The corner of a panel that has the fewest of its lines and words in it.
struct Corner {
  bool right = true, top = true;
};
[[nodiscard]] Corner freest_corner(const Panel& panel);

/// Where a number stands on an axis with a range, from 0 to 1.
[[nodiscard]] double place_on(const Axis& axis, double number);

} // namespace tanzen
