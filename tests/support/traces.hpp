#pragma once

#include "tanzen/search/trace.hpp"

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

} // namespace testing
