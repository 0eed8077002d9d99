#pragma once

#include <cstdio>
#include <string>

/// How long lines are where a command prints.
namespace tanzen::cli {

/// A terminal's own width, at least 80; 100 columns elsewhere.
[[nodiscard]] std::size_t line_width(std::FILE* out);

/// Indented lines that are too long go on under themselves, those of a block beside their labels.
[[nodiscard]] std::string fitted(const std::string& text, std::size_t width);

} // namespace tanzen::cli
