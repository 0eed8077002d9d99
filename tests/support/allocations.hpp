#pragma once

#include <cstdint>

namespace testing {

/// How often memory has been allocated so far, whoever asked.
[[nodiscard]] std::int64_t allocations();

/// Bytes allocated now, and the most there were since `forget_peak`.
[[nodiscard]] std::int64_t live_bytes();
[[nodiscard]] std::int64_t peak_bytes();
void forget_peak();

} // namespace testing
