#pragma once

#include "tanzen/numeric/vector.hpp"

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// What a method has proved of a problem within its region: where the best value lies, and boxes that hold every point
/// that has it.
struct Proof {
  /// What is known of the minimizers in a box.
  enum class Holds {
    one,     ///< exactly one minimizer of the feasible points in the box
    some,    ///< at least one global minimizer
    unknown, ///< some, or none
  };
  struct MinimizerBox {
    Vector lower = {}, upper = {};
    Holds holds = Holds::unknown;
  };

  /// Why a part of the region holds no global minimizer.
  enum class Reason {
    value,      ///< all values in it are too high
    constraint, ///< no point of it is feasible
    slope,      ///< the value rises or falls along a variable all over it
    curvature,  ///< it is concave along a variable all over it
    newton,     ///< a Newton step leaves nothing there
    convexity,  ///< a convex function below is too high
  };
  struct Removed {
    Vector lower = {}, upper = {};
    Reason reason = Reason::value;
  };

  double lower = 0, upper = 0;          ///< the best value lies between, in the problem's sense
  std::vector<MinimizerBox> boxes = {}; ///< all global minimizers lie in them; empty where that is not known
  std::int64_t looked_at = 0;           ///< boxes that it took
  std::vector<Removed> removed = {};    ///< parts without a global minimizer, as far as they were asked for
};

/// `value too high`, `slope`, ... as a picture names them.
[[nodiscard]] std::string_view reason_word(Proof::Reason reason);

/// `one`, `some` or `unknown`, as files have it.
[[nodiscard]] std::string_view holds_word(Proof::Holds holds);
/// Of any other word `unknown`.
[[nodiscard]] Proof::Holds holds_from_word(std::string_view word);

/// The lines that an outcome tells of it.
[[nodiscard]] std::string to_text(const Proof& proof);

} // namespace tanzen
