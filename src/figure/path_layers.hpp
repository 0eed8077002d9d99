#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/search/trace.hpp"

#include <string>
#include <vector>

/// What figures of runs share.
namespace tanzen {

/// One coordinate of a trace's points, row by row.
[[nodiscard]] std::vector<double> coordinate(const Trace& trace, Index k);

/// Axes of two variables over a box.
[[nodiscard]] Panel panel_over(const Problem& problem, const Box& box);

/// The same over a landscape, with the known minima on it.
[[nodiscard]] Panel landscape_panel(const Problem& problem, const Box& box, FieldLayer field);

/// A run on the picture: a line with dots, a ring at its start, a diamond at its end.
void add_path(Panel& panel, const std::vector<double>& x, const std::vector<double>& y, const Box& box, bool connected);

/// A cross for each known minimum within the box, of two variables.
void add_known_minima(Panel& panel, const Problem& problem, const Box& box);

/// The variable's name with its unit.
[[nodiscard]] std::string axis_name(const Variable& variable);

[[nodiscard]] Axis iteration_axis(const std::vector<double>& iterations);

} // namespace tanzen
