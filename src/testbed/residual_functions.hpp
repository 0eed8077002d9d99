#pragma once

#include "groups.hpp"

#include <optional>
#include <utility>

/// Short forms for the rows of the residual problems.
namespace tanzen::testbed::residual_tables {

struct Heading {
  const char* name;
  const char* title;
  std::vector<Trait> traits;
};

using ResidualMaker = std::function<std::vector<Expr>(const TracedPoint&)>;
using PointMaker = std::function<Vector(Index)>;
using BoxMaker = std::function<Box(Index)>;
using MinimaMaker = std::function<std::vector<KnownMinimum>(Index)>;

/// One row: its number in Moré, Garbow and Hillstrom (1981), and the rest.
[[nodiscard]] TestFunction problem(int number, Heading heading, Dimensions dimensions, ResidualMaker residuals,
                                   PointMaker start, BoxMaker region, MinimaMaker minima);
[[nodiscard]] inline TestFunction problem(int number, Heading heading, Index dimension, ResidualMaker residuals,
                                          PointMaker start, BoxMaker region, MinimaMaker minima) {
  return problem(number, std::move(heading), Dimensions::exactly(dimension), std::move(residuals), std::move(start),
                 std::move(region), std::move(minima));
}

[[nodiscard]] PointMaker from(Coordinates point);
[[nodiscard]] BoxMaker box(Coordinates lower, Coordinates upper);
/// A global minimum and other points with their values: global too where the value is the same.
[[nodiscard]] MinimaMaker at(Coordinates point, double value, std::vector<std::pair<Coordinates, double>> others = {});

} // namespace tanzen::testbed::residual_tables
