#pragma once

#include <span>
#include <string>

namespace tanzen {

/// Bytes as base64 (RFC 4648, section 4).
[[nodiscard]] std::string base64(std::span<const unsigned char> bytes);

} // namespace tanzen
