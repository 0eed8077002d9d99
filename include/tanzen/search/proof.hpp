#pragma once

#include "tanzen/numeric/vector.hpp"

#include <cstdint>
#include <string>
#include <vector>

namespace tanzen {

/// What a method has proved of a problem within its region: where the best value lies, and boxes that hold every point
/// that has it.
struct Proof {
  /// What is known of the stationary points in a box.
  enum class Holds {
    one,     ///< exactly one, and it is a minimum
    unknown, ///< some, or none
  };
  struct MinimizerBox {
    Vector lower = {}, upper = {};
    Holds holds = Holds::unknown;
  };

  double lower = 0, upper = 0;          ///< the best value lies between, in the problem's sense
  std::vector<MinimizerBox> boxes = {}; ///< all global minimizers lie in them; empty where that is not known
  std::int64_t looked_at = 0;           ///< boxes that it took
};

/// The lines that an outcome tells of it.
[[nodiscard]] std::string to_text(const Proof& proof);

} // namespace tanzen
