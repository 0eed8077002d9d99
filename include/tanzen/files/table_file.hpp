#pragma once

#include "tanzen/problem/data_table.hpp"

#include <filesystem>

namespace tanzen {

/// Reads a table of numbers (CSV): a line of column names, then a line a row; empty lines and lines that begin with `#`
/// are passed over. Throws InputError with the line for a cell that is no finite number, or a row of another length.
/// Memory: the text and the numbers.
[[nodiscard]] DataTable read_table(const std::filesystem::path& path);

} // namespace tanzen
