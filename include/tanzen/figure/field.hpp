#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"

#include <vector>

namespace tanzen {

/// The values of a problem of two variables over a box, in the problem's sense, on `resolution` squared points,
/// with levels chosen by the data. Cost: that many values, which count in no run.
[[nodiscard]] FieldLayer landscape_field(const Problem& problem, const Box& box, Index resolution = 300);

/// The same over the plane of two variables through a point.
[[nodiscard]] FieldLayer plane_field(const Problem& problem, const Vector& through, Index first, Index second,
                                     Index resolution);

/// Throws InputError for an interval of a variable that is too narrow for a picture: its numbers have not the digits.
void check_width(const Problem& problem, Index variable, double lower, double upper);

/// Levels that show the structure of values: evenly spaced in the logarithm of the distance from the best where
/// that spans more than two decades, otherwise evenly spaced. `best` is the end that matters most.
[[nodiscard]] std::vector<double> contour_levels(const Matrix& values, Sense sense, int count = 16);

} // namespace tanzen
