#pragma once

#include "tanzen/problem/definition.hpp"

#include <filesystem>
#include <string>
#include <string_view>

namespace tanzen {

/// Reads a problem file (TOML). Throws InputError that names the line of a TOML error, an unknown key with the nearest
/// one, a value of the wrong kind. Tables of data are read from beside `folder`.
[[nodiscard]] ProblemDefinition definition_from_toml(std::string_view text, const std::filesystem::path& folder = ".");
[[nodiscard]] ProblemDefinition read_definition(const std::filesystem::path& path);

/// Writes a definition as a problem file that reads back to the same definition.
[[nodiscard]] std::string definition_to_toml(const ProblemDefinition& definition);

} // namespace tanzen
