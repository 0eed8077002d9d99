#include "tanzen/report/table.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cassert>

namespace tanzen {
namespace {

/// Every cell with what would mean something to the format put in front of the characters that do.
std::vector<std::string> safe_cells(std::vector<std::string> cells, std::string (*safe)(char)) {
  for (std::string& cell : cells) {
    std::string text;
    for (const char c : cell) text += safe(c);
    cell = std::move(text);
  }
  return cells;
}

std::string safe_in_markdown(char c) {
  std::string safe(c == '|' || c == '\\' ? 1 : 0, '\\');
  safe += c;
  return safe;
}

std::string latex_character(char c) {
  switch (c) {
  case '\\': return "\\textbackslash{}";
  case '^': return "\\textasciicircum{}";
  case '~': return "\\textasciitilde{}";
  default: break;
  }
  std::string safe(std::string_view("%&_#${}").find(c) == std::string_view::npos ? 0 : 1, '\\');
  safe += c;
  return safe;
}

} // namespace

void Table::column(std::string heading, Align align) {
  columns_.push_back({std::move(heading), align});
}

void Table::row(std::vector<std::string> cells, RowSubject about) {
  assert(cells.size() == columns_.size());
  rows_.push_back({std::move(cells), std::move(about)});
}

std::string safe_in_latex(std::string_view text) {
  std::string safe;
  for (const char c : text) safe += latex_character(c);
  return safe;
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
  for (const Row& row : rows_) {
    for (std::size_t k = 0; k < row.cells.size(); ++k) widths[k] = std::max(widths[k], character_count(row.cells[k]));
  }
  std::string text = line(headings, widths);
  for (const Row& row : rows_) text += line(row.cells, widths);
  return text;
}

std::string Table::markdown() const {
  const auto line_of = [](const std::vector<std::string>& cells) {
    return "| " + joined(safe_cells(cells, safe_in_markdown), " | ") + " |\n";
  };
  std::vector<std::string> headings, rules;
  for (const Column& column : columns_) {
    headings.push_back(column.heading);
    rules.emplace_back(column.align == Align::left ? "---" : "---:");
  }
  std::string text = line_of(headings) + line_of(rules);
  for (const Row& row : rows_) text += line_of(row.cells);
  return text;
}

std::string Table::latex() const {
  const auto line_of = [](const std::vector<std::string>& cells) {
    return "  " + joined(safe_cells(cells, latex_character), " & ") + " \\\\\n";
  };
  std::vector<std::string> headings;
  std::string places;
  for (const Column& column : columns_) {
    headings.push_back(column.heading);
    places += column.align == Align::left ? 'l' : 'r';
  }
  std::string text = "\\begin{tabular}{" + places + "}\n  \\toprule\n" + line_of(headings) + "  \\midrule\n";
  for (const Row& row : rows_) text += line_of(row.cells);
  return text + "  \\bottomrule\n\\end{tabular}\n";
}

} // namespace tanzen
