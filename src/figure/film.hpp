#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/search/trace.hpp"

#include <cstddef>
#include <string>
#include <vector>

/// How a run's rows become the frames of a figure that moves.
namespace tanzen {

/// The moments that the frames of a film show: numbers of a counting column of traces, evenly spaced from its first to
/// its last, as many as there are or `most` of them.
struct Film {
  Trace::Column by = Trace::iteration;
  std::vector<double> moments = {};

  Film() = default;
  Film(Trace::Column by, const std::vector<const Trace*>& traces, std::size_t most = 480);

  [[nodiscard]] bool moves() const { return moments.size() > 1; }
  /// For each frame how many of a trace's rows it shows: those up to its moment, the first at least.
  [[nodiscard]] std::vector<std::size_t> rows_shown(const Trace& trace) const;
  /// `iteration 12`, `12 evaluations`.
  [[nodiscard]] std::vector<std::string> names() const;
  /// How long it plays: ten seconds, less where there are few frames.
  [[nodiscard]] double seconds() const;
};

/// The places of a line that must stay for it to look the same: what is left out lies within a four thousandth of
/// `width` and `height` of the line through what stays (Douglas and Peucker, 1973), and breaks, ends and the places
/// `kept` stay. Sorted.
[[nodiscard]] std::vector<std::size_t> seen_places(const std::vector<double>& x, const std::vector<double>& y,
                                                   double width, double height, const std::vector<std::size_t>& kept);

/// The same figure standing at a frame, or at its last.
[[nodiscard]] Figure still_at(Figure figure, std::size_t frame);
[[nodiscard]] Figure still(Figure figure);

} // namespace tanzen
