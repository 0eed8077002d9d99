#include "table.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cassert>

namespace tanzen::cli {

void Table::column(std::string heading, Align align) {
  columns_.push_back({std::move(heading), align});
}

void Table::row(std::vector<std::string> cells) {
  assert(cells.size() == columns_.size());
  rows_.push_back(std::move(cells));
}

std::string Table::line(const std::vector<std::string>& cells, const std::vector<std::size_t>& widths) const {
  std::string text;
  for (std::size_t k = 0; k < cells.size(); ++k) {
    const std::string space(widths[k] - character_count(cells[k]), ' ');
    text += "  ";
    text += columns_[k].align == Align::left ? cells[k] + space : space + cells[k];
  }
  text.erase(text.find_last_not_of(' ') + 1);
  return text + "\n";
}

std::string Table::text() const {
  std::vector<std::string> headings;
  std::vector<std::size_t> widths;
  for (const Column& column : columns_) {
    headings.push_back(column.heading);
    widths.push_back(character_count(column.heading));
  }
  for (const auto& row : rows_) {
    for (std::size_t k = 0; k < row.size(); ++k) widths[k] = std::max(widths[k], character_count(row[k]));
  }
  std::string text = line(headings, widths);
  for (const auto& row : rows_) text += line(row, widths);
  return text;
}

} // namespace tanzen::cli
