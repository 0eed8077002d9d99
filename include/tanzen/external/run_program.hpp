#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// What a program of another package left when it had ended.
struct ProgramEnd {
  int code = 0; ///< its exit code; 128 and its number for a signal
  std::string output = {};
  std::string errors = {};
};

/// Runs a program to its end with `input` on its standard input. All three streams are files in memory, with no name
/// that another program could find; the output may be written at any place, as the file /dev/stdout. No shell has a
/// part in it; the program ends with this process, however that ends. Throws std::runtime_error where it does not
/// start.
[[nodiscard]] ProgramEnd run_program(const std::vector<std::string>& command, std::string_view input);

} // namespace tanzen
