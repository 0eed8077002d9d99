#pragma once

#include "fronts.hpp"

/// The true fronts of the functions of Huband, Hingston, Barone and While (2006), of `m` objectives: the j-th of them
/// goes from 0 to 2 j.
namespace tanzen::testbed {

[[nodiscard]] Vector twice_numbers(Index m);

[[nodiscard]] std::optional<KnownFront> ellipsoid_front(Index m);
/// Of more than two objectives it has parts besides the line that was meant (Ishibuchi, Masuda and Nojima, 2016), and
/// is not known.
[[nodiscard]] std::optional<KnownFront> line_front(Index m);
[[nodiscard]] std::optional<KnownFront> mixed_front(Index m);
[[nodiscard]] std::optional<KnownFront> broken_front(Index m);

} // namespace tanzen::testbed
