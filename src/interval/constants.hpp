#pragma once

#include "tanzen/interval/enclosure.hpp"

namespace tanzen {

inline constexpr Enclosure pi{3.141592653589793115997963, 3.141592653589793560087173};
inline constexpr Enclosure half_pi{1.570796326794896557998982, 1.570796326794896780043587};
inline constexpr Enclosure log_of_two{0.69314718055994528622676398, 0.69314718055994539724906645};
inline constexpr Enclosure log_of_ten{2.30258509299404545700440394, 2.30258509299404590109361379};

} // namespace tanzen
