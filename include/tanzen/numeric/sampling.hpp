#pragma once

#include "tanzen/numeric/random.hpp"
#include "tanzen/numeric/vector.hpp"

#include <vector>

namespace tanzen {

/// `count` independent uniform points of a finite box, one a column.
[[nodiscard]] Matrix uniform_points(const Box& box, Index count, RandomStream random);

/// Latin hypercube sample (McKay, Beckman and Conover, 1979): in every coordinate each of `count` equal
/// intervals holds one point. One point a column.
[[nodiscard]] Matrix latin_hypercube_points(const Box& box, Index count, RandomStream random);

/// Sobol points (Sobol, 1967; direction numbers of Joe and Kuo, 2008), moved by one random vector modulo
/// the box (Cranley and Patterson, 1976), one a column. Throws InputError above 3,667 dimensions.
[[nodiscard]] Matrix sobol_points(const Box& box, Index count, RandomStream random);

/// All points with entries k / parts that sum to 1 (Das and Dennis, 1998): a column each, in lexicographic order.
[[nodiscard]] Matrix simplex_lattice(Index dimension, Index parts);
/// The finest lattice of at most `count` points, though at least the corners.
[[nodiscard]] Matrix simplex_points(Index dimension, Index count);

/// A uniformly random permutation of 0 .. count-1 (Fisher and Yates, 1938).
[[nodiscard]] std::vector<Index> random_order(Index count, RandomStream& random);

} // namespace tanzen
