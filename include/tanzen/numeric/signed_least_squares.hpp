#pragma once

#include "tanzen/numeric/vector.hpp"

#include <vector>

namespace tanzen {

/// Which sign a multiplier may have.
enum class MultiplierSign { free, nonnegative, nonpositive };

/// The multipliers y that make the rest gradient - columns * y shortest, each of its sign: least squares with signs by
/// the active set method of Lawson and Hanson (1974, algorithm NNLS), with the free ones always in the set. `columns`
/// holds one active gradient each. Cost: some n m^2 for each change of the set.
[[nodiscard]] Vector signed_least_squares(const Matrix& columns, const Vector& gradient,
                                          const std::vector<MultiplierSign>& signs);

/// Weights, at least 0 and with a sum of 1, by which the columns come to the shortest vector of their hull.
[[nodiscard]] Vector shortest_hull_weights(const Matrix& columns);

} // namespace tanzen
