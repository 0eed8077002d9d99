#pragma once

#include <cstddef>
#include <functional>

namespace tanzen {

/// Who evaluates a population: `size` threads that share out numbered parts of the work. The core has no threads of its
/// own; `thread_team` of the campaign room makes a team of them.
struct Team {
  std::size_t size = 1;
  /// Calls `work(part)` once for each part below `parts`, and returns when all are done. Empty means here, in order.
  std::function<void(std::size_t parts, const std::function<void(std::size_t part)>& work)> share = {};
};

} // namespace tanzen
