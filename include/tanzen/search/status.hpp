#pragma once

#include <cstddef>
#include <cstdint>
#include <fmt/core.h>
#include <iosfwd>
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
  stalled = 11,    ///< nothing lower was found although no test of convergence is met
  infeasible = 12, ///< the violation has a local minimum here, and it is not zero
  size = 13,       ///< a limit of the method's own, such as the points that its model may hold
  own = 14,        ///< a test of the user's own
  unbounded = 15,  ///< the value gets better without end along a way that is told
  proved = 16,     ///< the value is proved to be the best within the region
};

/// How many there are.
inline constexpr std::size_t status_count = 17;

/// The word for a status, as in files: `target`, `gradient`, ...
[[nodiscard]] std::string_view status_word(Status status);
[[nodiscard]] std::optional<Status> status_from_word(std::string_view word);

/// Whether the run ended where it wanted to: the first five, a user's own test, and a proof. Whether it converged hangs
/// on the check of its point too.
[[nodiscard]] constexpr bool may_be_converged(Status status) {
  return status <= Status::method || status == Status::own || status == Status::proved;
}

/// Whether the method itself, or a test on what it told, found its point settled: all of those but the target.
[[nodiscard]] constexpr bool is_settled(Status status) {
  return may_be_converged(status) && status != Status::target;
}

/// The word: `std::cout << status`, `fmt::format("{}", status)`.
std::ostream& operator<<(std::ostream& out, Status status);

} // namespace tanzen

template <>
struct fmt::formatter<tanzen::Status> : fmt::formatter<std::string_view> {
  template <class Context>
  auto format(tanzen::Status status, Context& context) const {
    return fmt::formatter<std::string_view>::format(tanzen::status_word(status), context);
  }
};
