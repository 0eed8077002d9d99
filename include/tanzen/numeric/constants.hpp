#pragma once

#include <limits>

namespace tanzen {

/// No limit, or a value worse than any other.
inline constexpr double infinity = std::numeric_limits<double>::infinity();

/// What stands where a number is not known: a quiet NaN. In files it is an empty cell or null.
inline constexpr double not_known = std::numeric_limits<double>::quiet_NaN();

} // namespace tanzen
