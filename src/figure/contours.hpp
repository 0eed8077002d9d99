#pragma once

#include "tanzen/figure/figure.hpp"

#include <vector>

namespace tanzen {

/// Where a value stands among rising levels: between k and k + 1 where it lies between level k - 1 and level k, in
/// proportion; 0.5 below the first. NaN stays.
[[nodiscard]] double place_among(const std::vector<double>& levels, double value);

/// A piece of a contour line inside one cell of the grid.
struct ContourSegment {
  double x1, y1, x2, y2;
};

/// The lines of equal value of a field at its levels, by marching squares (Lorensen and Cline, 1987, in the plane),
/// with the places among the levels interpolated along the sides of the cells. Linear in the size of the grid, however
/// rugged the function. Cells with a NaN corner have no lines.
[[nodiscard]] std::vector<ContourSegment> contour_segments(const FieldLayer& field);

/// A connected line of places.
struct Curve {
  std::vector<double> x, y;
};

/// The lines of one value over a grid, row i of `values` for y[i] and column j for x[j], their pieces joined, the
/// longest first.
[[nodiscard]] std::vector<Curve> level_curves(const Vector& x, const Vector& y, const Matrix& values, double level);

} // namespace tanzen
