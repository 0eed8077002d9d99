#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace tanzen {

/// Writes a whole file: to a temporary one beside it, which is then renamed, so that a crash or a full disk leaves
/// the old file or the new one. Throws FileError with the system's reason.
void write_file(const std::filesystem::path& path, std::string_view content);

/// Reads a whole file. Throws FileError with the system's reason.
[[nodiscard]] std::string read_file(const std::filesystem::path& path);

/// A name beside `path` for a file that will be renamed to it; it keeps the ending.
[[nodiscard]] std::filesystem::path temporary_beside(const std::filesystem::path& path);

/// Renames a finished temporary file to its place. Throws FileError, and removes it, where that fails.
void move_into_place(const std::filesystem::path& temporary, const std::filesystem::path& path);

} // namespace tanzen
