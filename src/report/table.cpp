#include "tanzen/report/table.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cassert>

namespace tanzen {
namespace {

constexpr std::size_t between = 2, narrowest_words = 12;

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

/// The natural widths, with columns of words narrowed, the widest first, as far as there is no room for them.
std::vector<std::size_t> Table::fitted_widths(std::size_t width) const {
  std::vector<std::size_t> fitted = widths();
  for (;;) {
    std::size_t used = 0, widest = 0;
    for (const std::size_t each : fitted) used += between + each;
    if (used <= width) return fitted;
    for (std::size_t k = 1; k < fitted.size(); ++k) {
      const bool may_narrow = columns_[k].align == Align::left && fitted[k] > narrowest_words;
      if (may_narrow && (widest == 0 || fitted[k] > fitted[widest])) widest = k;
    }
    if (widest == 0) return fitted;
    // Down to the next widest, so that columns of words share what there is.
    --fitted[widest];
  }
}

/// Which columns stand side by side: as many as have room, each block behind the first column.
std::vector<std::vector<std::size_t>> Table::blocks(const std::vector<std::size_t>& widths, std::size_t width) const {
  std::vector<std::vector<std::size_t>> blocks{{0}};
  std::size_t used = widths[0] + between;
  for (std::size_t k = 1; k < widths.size(); ++k) {
    if (used + between + widths[k] > width && blocks.back().size() > 1) {
      blocks.push_back({0});
      used = widths[0] + between;
    }
    blocks.back().push_back(k);
    used += between + widths[k];
  }
  return blocks;
}

std::string Table::text(std::size_t width) const {
  if (columns_.empty()) return "";
  const std::vector<std::size_t> fitted = fitted_widths(width);
  std::string text;
  // A row takes as many lines as its longest cell of words.
  const auto add_row = [&](const std::vector<std::size_t>& block, auto&& cell_at) {
    std::vector<std::vector<std::string>> cells;
    std::size_t lines = 1;
    for (const std::size_t k : block) {
      const std::string& cell = cell_at(k);
      const bool is_whole = character_count(cell) <= fitted[k];
      cells.push_back(is_whole ? std::vector{cell} : wrapped(cell, fitted[k]));
      lines = std::max(lines, cells.back().size());
    }
    for (std::size_t at = 0; at < lines; ++at) {
      std::string line;
      for (std::size_t place = 0; place < block.size(); ++place) {
        const std::string cell = at < cells[place].size() ? cells[place][at] : std::string();
        const std::size_t length = character_count(cell), column = fitted[block[place]];
        const std::string space(column - std::min(column, length), ' ');
        line += std::string(between, ' ');
        line += columns_[block[place]].align == Align::left ? cell + space : space + cell;
      }
      line.erase(line.find_last_not_of(' ') + 1);
      text += line;
      text += '\n';
    }
  };
  for (const auto& block : blocks(fitted, width)) {
    if (!text.empty()) text += '\n';
    add_row(block, [&](std::size_t k) -> const std::string& { return columns_[k].heading; });
    for (const Row& row : rows_) add_row(block, [&](std::size_t k) -> const std::string& { return row.cells[k]; });
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
