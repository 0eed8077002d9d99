#include "tanzen/files/table_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// Calls `each` with the number and the text of every line that says something.
template <class Each>
void each_line(std::string_view text, Each&& each) {
  for (std::size_t number = 1; !text.empty(); ++number) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    const std::string_view line = trimmed(text.substr(0, end));
    text.remove_prefix(std::min(end + 1, text.size()));
    if (!line.empty() && !line.starts_with('#')) each(number, line);
  }
}

} // namespace

DataTable read_table(const std::filesystem::path& path) {
  const std::string text = read_file(path);
  DataTable table;
  std::vector<double> cells; ///< row after row
  each_line(text, [&](std::size_t number, std::string_view line) {
    const auto wrong = [&](const std::string& what) {
      throw InputError(fmt::format("{}, line {}: {}", path.string(), number, what));
    };
    if (table.columns.empty()) {
      table.columns = split(line, ',');
      cells.reserve(static_cast<std::size_t>(std::ranges::count(text, '\n')) * table.columns.size());
      return;
    }
    std::size_t found = 0;
    for (std::string_view rest = line;; ++found) {
      const std::size_t comma = rest.find(',');
      const std::string_view cell = trimmed(rest.substr(0, comma));
      const auto value = read_number(cell);
      if (found < table.columns.size() && (!value || !std::isfinite(*value)))
        wrong(fmt::format("'{}' in column {} is no finite number", clipped(cell, 40), table.columns[found]));
      cells.push_back(value.value_or(0));
      if (comma == std::string_view::npos) break;
      rest.remove_prefix(comma + 1);
    }
    if (found + 1 != table.columns.size())
      wrong(fmt::format("{} cells, but {} columns", found + 1, table.columns.size()));
  });
  const auto columns = static_cast<Index>(table.columns.size());
  if (columns == 0) throw InputError(fmt::format("{}: the table has no line of column names", path.string()));
  const auto rows = static_cast<Index>(cells.size()) / columns;
  table.rows = Eigen::Map<const Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>>(cells.data(),
                                                                                                        rows, columns);
  return table;
}

} // namespace tanzen
