#pragma once

#include "tanzen/figure/figure.hpp"
#include "tanzen/problem/problem.hpp"

#include <string>
#include <vector>

/// What figures of fronts share. Objectives are in the senses of the user; a column a point.
namespace tanzen {

/// Axes of objective space: two as a plane, three in space; of more one place each, to be filled with lines.
[[nodiscard]] Panel objective_panel(const std::vector<Objective>& objectives);

/// How objectives are drawn where they are lines over places: in parts of a box that holds all that is shown.
struct ObjectiveBox {
  Vector lower, upper;

  void hold(const Matrix& points);
  [[nodiscard]] double part(Index objective, double value) const;
};

/// Points of objective space: of two and three objectives marks, of more lines, of at most 40 that are spread over all.
void add_front_points(Panel& panel, const Matrix& points, const ObjectiveBox& box, PointLayer style);

/// The true front, grey and under what follows: of two objectives a line with its gaps; of more than three nothing.
void add_true_front(Panel& panel, const Matrix& points, const ObjectiveBox& box);

/// Points by which a known front is drawn.
inline constexpr Index true_points = 400;

/// So many points of a known front in the senses of the objectives.
[[nodiscard]] Matrix true_front_points(const KnownFront& front, const std::vector<Objective>& objectives, Index count);

} // namespace tanzen
