#pragma once

#include <chrono>
#include <functional>
#include <optional>

namespace tanzen {

/// How long an evaluation that waits for something outside, such as another program, may do so for its run. Functions
/// that compute never look at it.
struct Waiting {
  using Clock = std::chrono::steady_clock;

  std::optional<Clock::time_point> deadline = {};
  /// Whether the run's user wants it to stop; asked some times a second, from any thread.
  std::function<bool()> asked_to_stop = {};
};

/// Ends an evaluation that was waiting, and its run: thrown through the method, caught by the run. No std::exception,
/// so that a method's own handlers let it pass.
struct WaitEnded {
  bool at_deadline = false; ///< otherwise the user asked
};

} // namespace tanzen
