#pragma once

#include "tanzen/problem/problem.hpp"

#include <filesystem>
#include <string>

namespace tanzen {

/// A function of the testbed with options, or a problem file (.toml) beside `folder`. Throws InputError.
[[nodiscard]] Problem named_problem(const std::string& name, const std::filesystem::path& folder = ".");

/// The problem of a file. Throws InputError that names it.
[[nodiscard]] Problem read_problem(const std::filesystem::path& path);

} // namespace tanzen
