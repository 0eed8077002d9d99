#pragma once

#include "path_layers.hpp"

/// Panels that show values over two variables as a surface in perspective.
namespace tanzen {

/// A panel with its axes made a surface of a field over them, with marks on it and the field's contours on the ground
/// below. Heights are the values; where nine tenths of them span more than three decades, on a logarithmic axis.
[[nodiscard]] Panel surface_panel(Panel axes, FieldLayer field, std::vector<PointLayer> marks);

/// The same over two variables, with the known minima.
[[nodiscard]] Panel surface_over(const Problem& problem, const Box& box, FieldLayer field);

/// A run on the panel's surface, just above it, with its shadow on the ground.
void add_path_on_surface(Panel& panel, const std::vector<double>& x, const std::vector<double>& y, const Trace& trace,
                         const Film& film, const PathStyle& style = {});

/// Turns the panel so that as much as can be of the lines on its surface is seen, by the smallest turn that does.
void show_paths(Panel& panel);

} // namespace tanzen
