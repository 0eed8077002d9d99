#pragma once

#include "tanzen/search/run.hpp"

namespace tanzen::cli {

/// While it lives, Ctrl-C asks runs to stop instead of ending the program: what was done so far is kept. A second
/// Ctrl-C ends the program at once.
class InterruptGuard {
 public:
  InterruptGuard();
  InterruptGuard(const InterruptGuard&) = delete;
  InterruptGuard& operator=(const InterruptGuard&) = delete;
  ~InterruptGuard();

  [[nodiscard]] static bool is_asked();
  /// An observer that stops its run when asked.
  [[nodiscard]] static Observer observer();
};

} // namespace tanzen::cli
