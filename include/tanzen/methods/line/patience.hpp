#pragma once

#include <cmath>
#include <limits>

namespace tanzen::methods {

/// Counts steps in a row that lower the value by no more than its own rounding: after a few of them nothing is gained
/// any more, whatever the gradient says.
class Patience {
 public:
  /// Notes a step; whether it is lost.
  [[nodiscard]] bool is_lost_after(double before, double after) {
    constexpr int most = 5;
    const bool is_lower = before - after > 2 * std::numeric_limits<double>::epsilon() * std::abs(before);
    flat_ = is_lower ? 0 : flat_ + 1;
    return flat_ > most;
  }

 private:
  int flat_ = 0;
};

} // namespace tanzen::methods
