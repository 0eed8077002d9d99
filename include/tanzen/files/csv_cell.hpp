#pragma once

#include <string>
#include <string_view>

namespace tanzen {

/// A word as a cell of a CSV file: in quotes where it must be. One that programs of tables would compute, as `=1+1`,
/// gets a quote mark before it, which they take for text.
[[nodiscard]] std::string csv_cell(std::string_view text);
/// A number as a cell: the shortest form that reads back; empty for NaN.
[[nodiscard]] std::string csv_cell(double number);

} // namespace tanzen
