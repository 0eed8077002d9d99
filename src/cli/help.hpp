#pragma once

#include <string>

namespace CLI {
class App;
}

/// What is told of commands: all of it read off their own options.
namespace tanzen::cli {

/// The command with those above it: `tanzen campaign merge`.
[[nodiscard]] std::string full_name(const CLI::App& command);

/// Its options and the commands under it, within 80 columns.
[[nodiscard]] std::string help_text(const CLI::App& command);

/// A page for `man` about the program with all its commands.
[[nodiscard]] std::string manual_page(const CLI::App& program, const std::string& version);

/// A script for bash that completes commands, options and file names.
[[nodiscard]] std::string completion_script(const CLI::App& program);

} // namespace tanzen::cli
