#include "residual_functions.hpp"

#include <fmt/format.h>

namespace tanzen::testbed::residual_tables {

TestFunction problem(int number, Heading heading, Dimensions dimensions, ResidualMaker residuals, PointMaker start,
                     BoxMaker region, MinimaMaker minima) {
  TestFunction function;
  function.name = heading.name;
  function.title = heading.title;
  function.formula = fmt::format("the sum of squares of problem {} of the paper", number);
  function.source = fmt::format("Moré, Garbow and Hillstrom, 1981, problem {}", number);
  function.traits = std::move(heading.traits);
  function.dimensions = dimensions;
  function.residuals = [made = std::move(residuals)](const TracedPoint& x, const OptionValues&) { return made(x); };
  function.start = std::move(start);
  function.region = std::move(region);
  function.minima = std::move(minima);
  return function;
}

PointMaker from(Coordinates point) {
  return [=](Index) { return point.vector(); };
}

BoxMaker box(Coordinates lower, Coordinates upper) {
  return [=](Index) { return Box{lower.vector(), upper.vector()}; };
}

MinimaMaker at(Coordinates point, double value, std::vector<std::pair<Coordinates, double>> others) {
  return [=](Index) {
    std::vector<KnownMinimum> minima{{point.vector(), value, true}};
    for (const auto& [place, height] : others) minima.push_back({place.vector(), height, height == value});
    return minima;
  };
}

} // namespace tanzen::testbed::residual_tables
