#pragma once

#include "tanzen/problem/data_table.hpp"

#include <filesystem>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace tanzen {

struct TableOptions {
  std::vector<std::string> columns = {}; ///< their names, in place of those of the file; needed where it has none
  std::optional<std::set<std::string>> only = {}; ///< the columns that are read; the others may hold anything
};

/// Reads a table of numbers: a line of column names, then a line a row; empty lines and lines that begin with `#` are
/// passed over. Cells are parted by tabs, semicolons, commas or blanks: the first of them, in this order, that the
/// first line has. Line ends of any system, and a byte-order mark, are taken as they come.
///
/// Throws InputError with the line for a cell that is missing or no finite number (a decimal comma is told as such), a
/// row of another length, a first line of numbers without names given, and names that are there twice.
/// Memory: the text and the numbers.
[[nodiscard]] DataTable read_table(const std::filesystem::path& path, const TableOptions& options = {});

/// The names of a table's columns, as `read_table` would have them.
[[nodiscard]] std::vector<std::string> table_columns(const std::filesystem::path& path,
                                                     const std::vector<std::string>& columns = {});

/// The text of a table that `read_table` reads back to the last bit; a number that is none is an empty cell.
[[nodiscard]] std::string table_to_csv(const DataTable& table);

} // namespace tanzen
