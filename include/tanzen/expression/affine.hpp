#pragma once

#include "tanzen/expression/expression.hpp"

#include <vector>

namespace tanzen {

/// Coordinates, of the first `among` ones, that expressions are affine in, all of them together: with the others held
/// each is a constant plus a sum of them with factors. By the form of the expression: what is affine only after some
/// algebra is not seen. Each is taken, in order, that leaves those taken so; of a*b*x that is a alone. Coordinates that
/// do not occur are left out. Cost: the size of the graph for each coordinate.
[[nodiscard]] std::vector<Index> affine_coordinates(const Expressions& expressions, Index among);

} // namespace tanzen
