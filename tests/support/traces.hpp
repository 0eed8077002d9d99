#pragma once

#include "tanzen/search/run.hpp"

#include <algorithm>
#include <cmath>

namespace testing {

/// Whether two traces have the same columns and cells, what is not known being the same as itself.
inline bool same_trace(const tanzen::Trace& a, const tanzen::Trace& b) {
  if (a.rows() != b.rows() || a.column_names() != b.column_names()) return false;
  const auto same = [](double x, double y) { return x == y || (std::isnan(x) && std::isnan(y)); };
  for (std::size_t row = 0; row < a.rows(); ++row) {
    if (!std::ranges::equal(a.row(row), b.row(row), same)) return false;
  }
  return true;
}

/// So many iterations, no fewer, with their points.
[[nodiscard]] inline tanzen::RunOptions exactly(std::int64_t iterations, const tanzen::Coordinates& from) {
  return {.start = from, .stop = {.iterations = iterations, .gradient_tolerance = {}}, .trace = {.points = true}};
}

} // namespace testing
