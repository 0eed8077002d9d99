#pragma once

#include "groups.hpp"
#include "tanzen/numeric/constants.hpp"

/// Problems with constraints as rows of a table.
namespace tanzen::testbed::constrained_rows {

inline constexpr double none = -infinity;

struct Row {
  int number; ///< in the collection
  const char* title;
  const char* formula;
  std::vector<const char*> constraints;
  std::vector<double> lower, upper; ///< bounds; empty where there are none
  std::vector<double> start;
  std::vector<double> minimum; ///< the best point known
  double value;
  std::vector<std::vector<double>> others = {}; ///< local minima that are not global, their values behind the points
};

/// The problems of the collection of Hock and Schittkowski (1981), limits written without their slacks. Starts that lie
/// outside the bounds there are moved to the nearest point within.
[[nodiscard]] TestFunction hock_schittkowski(const Row& row);

/// Any other problem of a fixed number of variables, by its own name and source.
[[nodiscard]] TestFunction constrained(const Row& row, std::string name, std::string source);

} // namespace tanzen::testbed::constrained_rows
