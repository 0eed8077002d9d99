#include "constrained_rows.hpp"

#include <fmt/format.h>

namespace tanzen::testbed::constrained_rows {
namespace {

Vector vector_of(const std::vector<double>& numbers) {
  return Coordinates(numbers).vector();
}

/// The bounds where they are finite and near enough to look at, otherwise a box around start and minima.
Box region_of(const Row& row) {
  constexpr double widest = 1e3;
  const Vector start = vector_of(row.start), minimum = vector_of(row.minimum);
  const Vector room = (minimum - start).cwiseAbs().cwiseMax(1).cwiseMax(0.5 * start.cwiseAbs());
  Box box{start.cwiseMin(minimum) - room, start.cwiseMax(minimum) + room};
  for (const auto& numbers : row.others) {
    const Vector other = vector_of(numbers).head(start.size());
    box = {box.lower.cwiseMin(other), box.upper.cwiseMax(other)};
  }
  for (Index i = 0; i < start.size() && !row.lower.empty(); ++i) {
    const double lower = row.lower[static_cast<std::size_t>(i)], upper = row.upper[static_cast<std::size_t>(i)];
    if (upper - lower <= widest * std::max(1.0, std::abs(start[i]))) {
      box.lower[i] = lower;
      box.upper[i] = upper;
    }
    box.lower[i] = std::max(box.lower[i], lower);
    box.upper[i] = std::min(box.upper[i], upper);
  }
  return box;
}

} // namespace

TestFunction constrained(const Row& row, std::string name, std::string source) {
  using enum Trait;
  const auto n = static_cast<Index>(row.start.size());
  TestFunction function{
      .name = std::move(name), .title = row.title, .formula = row.formula, .source = std::move(source)};
  function.traits = {smooth, Trait::constrained};
  function.dimensions = Dimensions::exactly(n);
  function.constraints = [texts = std::vector<std::string>(row.constraints.begin(), row.constraints.end())](Index) {
    return texts;
  };
  function.region = [box = region_of(row)](Index) { return box; };
  if (!row.lower.empty())
    function.bounds = [box = Box{vector_of(row.lower), vector_of(row.upper)}](Index) { return box; };
  function.start = [start = vector_of(row.start)](Index) { return start; };
  std::vector<KnownMinimum> minima{{vector_of(row.minimum), row.value, true}};
  for (const auto& other : row.others) {
    const Vector numbers = vector_of(other);
    minima.push_back({numbers.head(n), numbers[n], false});
  }
  function.minima = [minima](Index) { return minima; };
  return function;
}

TestFunction hock_schittkowski(const Row& row) {
  return constrained(row, fmt::format("hock-schittkowski-{}", row.number),
                     fmt::format("Hock and Schittkowski, 1981, problem {}", row.number));
}

} // namespace tanzen::testbed::constrained_rows
