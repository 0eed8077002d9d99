#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/search/trace.hpp"

#include "film.hpp"

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

/// How a run is drawn on a picture.
struct PathStyle {
  std::string color = std::string(path_color);
  double width = 1.6;
  std::string series = {}; ///< the run that it belongs to, where there are several
  bool connected = true;
  bool dotted = true;     ///< its iterates are marked where they lie apart
  double mark_size = 1.7; ///< of the marks at its start and its end
};

/// A run on the picture: a line with dots, a ring at its start, a diamond at its end. What a pointer is told comes from
/// the trace, whose rows the places are; with a film they come one after the other, and the diamond goes along.
void add_path(Panel& panel, const std::vector<double>& x, const std::vector<double>& y, const Box& box,
              const Trace& trace, const Film& film, const PathStyle& style = {});

/// A mark that goes along a curve of a trace's rows as the film does; nothing where it stands still.
void add_moving_mark(Panel& panel, const std::vector<double>& x, const std::vector<double>& y, const Trace& trace,
                     const Film& film, const std::string& color, const std::string& series = {});

/// A cross for each known minimum within the box, of two variables.
void add_known_minima(Panel& panel, const Problem& problem, const Box& box);

/// Takes the names of all marks out of the panel's key.
void clear_labels(Panel& panel);

/// The variable's name with its unit.
[[nodiscard]] std::string axis_name(const Variable& variable);

[[nodiscard]] Axis iteration_axis(const std::vector<double>& iterations);

} // namespace tanzen
