#include "tanzen/files/table_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/csv_cell.hpp"
#include "tanzen/files/write_file.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

namespace tanzen {
namespace {

/// Calls `each` with the number and the text of every line that says something, until it returns false.
template <class Each>
void each_line(std::string_view text, Each&& each) {
  constexpr std::string_view byte_order_mark = "\xef\xbb\xbf";
  if (text.starts_with(byte_order_mark)) text.remove_prefix(byte_order_mark.size());
  for (std::size_t number = 1; !text.empty(); ++number) {
    const std::size_t end = std::min(text.find_first_of("\r\n"), text.size());
    const std::string_view line = trimmed(text.substr(0, end));
    const bool is_pair = text.substr(end).starts_with("\r\n");
    text.remove_prefix(std::min(end + (is_pair ? 2 : 1), text.size()));
    if (!line.empty() && !line.starts_with('#') && !each(number, line)) return;
  }
}

char separator_of(std::string_view line) {
  for (const char separator : {'\t', ';', ','})
    if (line.find(separator) != std::string_view::npos) return separator;
  return ' ';
}

/// Calls `each(k, cell)` for the cells of a line; how many there are.
template <class Each>
std::size_t each_cell(std::string_view line, char separator, Each&& each) {
  std::size_t count = 0;
  for (std::string_view rest = line;;) {
    const std::size_t end = rest.find(separator);
    each(count++, trimmed(rest.substr(0, end)));
    if (end == std::string_view::npos) return count;
    rest.remove_prefix(end + 1);
    if (separator == ' ') rest = trimmed(rest); // several blanks part no more than one
  }
}

std::string_view unquoted(std::string_view cell) {
  const bool is_quoted = cell.size() >= 2 && cell.front() == '"' && cell.back() == '"';
  return is_quoted ? trimmed(cell.substr(1, cell.size() - 2)) : cell;
}

/// How many lines there are, empty ones and comments too.
Index lines_in(std::string_view text) {
  Index lines = text.ends_with('\n') || text.ends_with('\r') ? 0 : 1;
  for (std::size_t k = 0; k < text.size(); ++k)
    lines += text[k] == '\n' || (text[k] == '\r' && !text.substr(k + 1).starts_with('\n'));
  return lines;
}

/// The first line, and what follows from it.
struct Head {
  std::vector<std::string> columns;
  char separator = ',';
  bool has_names = false; ///< and is no row itself
};

Head head_of(const std::string& text, const std::vector<std::string>& given, const std::string& path) {
  Head head;
  bool all_numbers = true;
  each_line(text, [&](std::size_t, std::string_view line) {
    head.separator = separator_of(line);
    each_cell(line, head.separator, [&](std::size_t, std::string_view cell) {
      head.columns.emplace_back(unquoted(cell));
      all_numbers = all_numbers && read_number(unquoted(cell)).has_value();
    });
    return false;
  });
  if (head.columns.empty()) throw InputError(fmt::format("{}: the table has no line of column names", path));
  head.has_names = !all_numbers;
  if (!head.has_names && given.empty())
    throw InputError(fmt::format("{}: the first line holds {} and no names of columns: name them, as in --columns {}",
                                 path, counted(static_cast<long long>(head.columns.size()), "number"),
                                 head.columns.size() == 1   ? "y"
                                 : head.columns.size() == 2 ? "x,y"
                                                            : "x,y,..."));
  if (!given.empty() && given.size() != head.columns.size())
    throw InputError(fmt::format("{}: {} for {}", path, counted(static_cast<long long>(given.size()), "name"),
                                 counted(static_cast<long long>(head.columns.size()), "column")));
  if (!given.empty()) head.columns = given;
  for (std::size_t k = 0; k < head.columns.size(); ++k) {
    if (std::ranges::count(head.columns, head.columns[k]) > 1)
      throw InputError(fmt::format("{}: the column '{}' is there twice", path, clipped(head.columns[k], 40)));
  }
  return head;
}

/// What is wrong with a cell that is no finite number.
std::string fault_of(std::string_view cell, const std::string& column) {
  if (cell.empty())
    return fmt::format("the cell in column {} is empty: fill it, or put # before a line that is to be left out",
                       column);
  const std::size_t comma = cell.find(',');
  if (comma != std::string_view::npos && cell.find(',', comma + 1) == std::string_view::npos) {
    std::string with_point(cell);
    with_point[comma] = '.';
    if (read_number(with_point))
      return fmt::format("'{}' in column {} has a decimal comma: write {}", clipped(cell, 40), column, with_point);
  }
  return fmt::format("'{}' in column {} is no finite number", clipped(cell, 40), column);
}

} // namespace

std::vector<std::string> table_columns(const std::filesystem::path& path, const std::vector<std::string>& columns) {
  return head_of(read_file(path), columns, path.string()).columns;
}

DataTable read_table(const std::filesystem::path& path, const TableOptions& options) {
  const std::string text = read_file(path);
  const Head head = head_of(text, options.columns, path.string());
  DataTable table;
  std::vector<char> is_read;
  for (const std::string& column : head.columns) {
    is_read.push_back(!options.only || options.only->contains(column) ? 1 : 0);
    if (is_read.back() != 0) table.columns.push_back(column);
  }
  table.rows.resize(lines_in(text) - (head.has_names ? 1 : 0), static_cast<Index>(table.columns.size()));
  Index row = 0;
  bool is_first = true;
  each_line(text, [&](std::size_t number, std::string_view line) {
    if (std::exchange(is_first, false) && head.has_names) return true;
    const auto wrong = [&](const std::string& what) {
      throw InputError(fmt::format("{}, line {}: {}", path.string(), number, what));
    };
    std::string fault;
    Index column = 0;
    const std::size_t found = each_cell(line, head.separator, [&](std::size_t k, std::string_view cell) {
      if (k >= is_read.size() || is_read[k] == 0) return;
      const auto value = read_number(unquoted(cell));
      if ((!value || !std::isfinite(*value)) && fault.empty()) fault = fault_of(unquoted(cell), head.columns[k]);
      table.rows(row, column++) = value.value_or(0);
    });
    // More cells than columns may be a decimal comma between commas: then the length is the better word.
    if (found != head.columns.size()) wrong(fmt::format("{} cells, but {} columns", found, head.columns.size()));
    if (!fault.empty()) wrong(fault);
    ++row;
    return true;
  });
  if (row < table.rows.rows()) table.rows.conservativeResize(row, Eigen::NoChange);
  return table;
}

std::string table_to_csv(const DataTable& table) {
  std::string text = joined(table.columns, ",") + "\n";
  for (Index row = 0; row < table.rows.rows(); ++row) {
    for (Index column = 0; column < table.rows.cols(); ++column) {
      if (column > 0) text += ',';
      text += csv_cell(table.rows(row, column));
    }
    text += '\n';
  }
  return text;
}

} // namespace tanzen
