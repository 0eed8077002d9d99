#pragma once

#include "numbers.hpp"
#include "tanzen/testbed/test_function.hpp"

/// What the rows of functions of two variables are written with.
namespace tanzen::testbed::plane_rows {

/// Minima given one after another, all global.
inline std::function<std::vector<KnownMinimum>(Index)> at(std::vector<Coordinates> points, double value) {
  return [=](Index) {
    std::vector<KnownMinimum> minima;
    for (const Coordinates& point : points) minima.push_back({point.vector(), value, true});
    return minima;
  };
}

/// The same, with local minima and their values after them.
inline std::function<std::vector<KnownMinimum>(Index)> at(std::vector<Coordinates> points, double value,
                                                          std::vector<std::pair<Coordinates, double>> local) {
  return [=](Index) {
    std::vector<KnownMinimum> minima;
    for (const Coordinates& point : points) minima.push_back({point.vector(), value, true});
    for (const auto& [point, height] : local) minima.push_back({point.vector(), height, false});
    return minima;
  };
}

inline std::function<Box(Index)> box(double x_lower, double x_upper, double y_lower, double y_upper) {
  return [=](Index) { return Box{Vector{{x_lower, y_lower}}, Vector{{x_upper, y_upper}}}; };
}

inline constexpr Dimensions plane = Dimensions::exactly(2);

} // namespace tanzen::testbed::plane_rows
