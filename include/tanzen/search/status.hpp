#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

namespace tanzen {

/// Why a run stopped. The numbers and words stand in files: append, never renumber.
enum class Status : std::uint8_t {
  target = 0,
  gradient = 1,
  step = 2,
  value = 3,
  method = 4,
  iterations = 5,
  evaluations = 6,
  time = 7,
  diverged = 8,
  failed = 9,
  interrupted = 10,
};

/// The word for a status, as in files: `target`, `gradient`, ...
[[nodiscard]] std::string_view status_word(Status status);
[[nodiscard]] std::optional<Status> status_from_word(std::string_view word);

/// Whether the run ended where it wanted to: the first five.
[[nodiscard]] constexpr bool is_converged(Status status) {
  return status <= Status::method;
}

} // namespace tanzen
