#pragma once

#if defined(__has_feature)
#if __has_feature(address_sanitizer)
#define TANZEN_IS_SANITIZED
#endif
#elif defined(__SANITIZE_ADDRESS__)
#define TANZEN_IS_SANITIZED
#endif

namespace testing {

/// Whether this is the build with sanitizers, which is some thirty times as slow: cases that only repeat for a
/// statistic what others run once are left to the other build.
#if defined(TANZEN_IS_SANITIZED)
inline constexpr bool is_sanitized = true;
#else
inline constexpr bool is_sanitized = false;
#endif

} // namespace testing
