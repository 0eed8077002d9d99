#pragma once

#include <cstdint>

namespace testing {

/// Counts the allocations of the whole process while it lives, whoever asks; one lives at a time.
class AllocationWatch {
 public:
  AllocationWatch();
  ~AllocationWatch();
  AllocationWatch(const AllocationWatch&) = delete;
  AllocationWatch& operator=(const AllocationWatch&) = delete;

  /// How often memory was allocated since it began.
  [[nodiscard]] std::int64_t allocations() const;

  /// Bytes allocated now beyond those allocated when it began, and the most of them there were.
  [[nodiscard]] std::int64_t live_bytes() const;
  [[nodiscard]] std::int64_t peak_bytes() const;
};

} // namespace testing
