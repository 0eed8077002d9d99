#pragma once

#include "tanzen/problem/definition.hpp"

#include <filesystem>
#include <string>

namespace tanzen {

/// A function of the testbed with options, or a problem file (.toml) beside `folder`. Throws InputError.
[[nodiscard]] Problem named_problem(const std::string& name, const std::filesystem::path& folder = ".",
                                    const ProgramMaker& make_program = {});

/// The problem of a file; one that is a program is made by `make_program`, or if that is empty by `make_external`.
/// Nothing is started by reading. Throws InputError that names the file.
[[nodiscard]] Problem read_problem(const std::filesystem::path& path, const ProgramMaker& make_program = {});

} // namespace tanzen
