#include "tanzen/report/table.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cassert>

namespace tanzen {
namespace {

constexpr std::size_t between = 2, narrowest_words = 24;

/// Every cell with what would mean something to the format put in front of the characters that do.
std::vector<std::string> safe_cells(std::vector<std::string> cells, std::string (*safe)(char)) {
  for (std::string& cell : cells) {
    std::string text;
    for (const char c : cell) text += safe(c);
    cell = std::move(text);
  }
  return cells;
}

std::string markdown_character(char c) {
  std::string safe(std::string_view("\\`*_[]<>#|&").find(c) == std::string_view::npos ? 0 : 1, '\\');
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

std::string safe_in_markdown(std::string_view text) {
  std::string safe;
  for (const char c : text) safe += markdown_character(c);
  return safe;
}

std::string safe_in_latex(std::string_view text) {
  std::string safe;
  for (const char c : text) safe += latex_character(c);
  return safe;
}

std::vector<std::size_t> Table::widths() const {
  std::vector<std::size_t> widths;
  for (const Column& column : columns_) widths.push_back(character_count(column.heading));
  for (const Row& row : rows_) {
    for (std::size_t k = 0; k < row.cells.size(); ++k) widths[k] = std::max(widths[k], character_count(row.cells[k]));
  }
  return widths;
}

/// Which columns stand side by side: as many as have room, each block behind the first column.
std::vector<std::vector<std::size_t>> Table::blocks(const std::vector<std::size_t>& widths, std::size_t width) const {
  std::vector<std::vector<std::size_t>> blocks{{0}};
  std::size_t used = widths[0] + between;
  for (std::size_t k = 1; k < widths.size(); ++k) {
    const bool may_wrap = k + 1 == widths.size() && columns_[k].align == Align::left;
    const std::size_t needed = between + (may_wrap ? std::min(widths[k], narrowest_words) : widths[k]);
    if (used + needed > width && blocks.back().size() > 1) {
      blocks.push_back({0});
      used = widths[0] + between;
    }
    blocks.back().push_back(k);
    used += needed;
  }
  return blocks;
}

std::string Table::text(std::size_t width) const {
  if (columns_.empty()) return "";
  const std::vector<std::size_t> natural = widths();
  std::string text;
  const auto add_line = [&](const std::vector<std::size_t>& block, auto&& cell_at) {
    std::string line;
    std::vector<std::string> rest;
    for (const std::size_t k : block) {
      std::string cell = cell_at(k);
      line += std::string(between, ' ');
      const std::size_t at = character_count(line);
      const bool is_last = k == block.back(), is_words = columns_[k].align == Align::left;
      if (is_last && is_words && block.size() > 1 && at + character_count(cell) > width && at < width) {
        rest = wrapped(cell, std::max(narrowest_words, width - at));
        for (std::size_t next = 1; next < rest.size(); ++next) rest[next].insert(0, at, ' ');
        cell = rest.front();
      }
      const std::string space(natural[k] - std::min(natural[k], character_count(cell)), ' ');
      line += is_words ? cell + space : space + cell;
    }
    if (!rest.empty()) rest.erase(rest.begin());
    rest.insert(rest.begin(), line);
    for (std::string& each : rest) {
      each.erase(each.find_last_not_of(' ') + 1);
      text += each + "\n";
    }
  };
  for (const auto& block : blocks(natural, width)) {
    if (!text.empty()) text += "\n";
    add_line(block, [&](std::size_t k) { return columns_[k].heading; });
    for (const Row& row : rows_) add_line(block, [&](std::size_t k) { return row.cells[k]; });
  }
  return text;
}

std::string Table::markdown() const {
  const auto line_of = [](const std::vector<std::string>& cells) {
    return "| " + joined(safe_cells(cells, markdown_character), " | ") + " |\n";
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
