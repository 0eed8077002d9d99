#pragma once

namespace tanzen::cli {

/// While it lives, Ctrl-C, and the signals TERM and HUP, ask runs to stop instead of ending the program: what was done
/// so far is kept. A second one ends the program at once.
class InterruptGuard {
 public:
  InterruptGuard();
  InterruptGuard(const InterruptGuard&) = delete;
  InterruptGuard& operator=(const InterruptGuard&) = delete;
  ~InterruptGuard();

  [[nodiscard]] static bool is_asked();
};

} // namespace tanzen::cli
