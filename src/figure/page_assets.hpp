#pragma once

#include <cstdint>
#include <string_view>

/// What the build puts into pages.
namespace tanzen::page_assets {

extern const std::string_view script;          ///< our own
extern const std::string_view style;           ///< our own
extern const std::string_view script_hash;     ///< SHA-256, hexadecimal
extern const std::string_view library_hash;    ///< of the plotting library's file
extern const std::string_view library_version; ///< of the plotting library
extern const std::uintmax_t library_size;      ///< bytes of that file
extern const std::string_view installed_share; ///< where files of the program are installed
inline constexpr std::string_view library_name = "plotting.min.js";

} // namespace tanzen::page_assets
