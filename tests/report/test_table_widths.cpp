// Tables fit where they are printed, and lose nothing.
#include "support/text.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/report/table.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <algorithm>
#include <string>

using namespace tanzen;

namespace {

std::size_t widest(const std::string& text) {
  std::size_t width = 0;
  for (const std::string& line : testing::lines_of(text)) width = std::max(width, character_count(line));
  return width;
}

Table of_glazes() {
  Table table;
  table.column("glaze", Table::Align::left);
  for (const char* heading : {"melts at", "thickness", "crazing", "price"}) table.column(heading);
  table.column("what is known of it", Table::Align::left);
  table.row({"ash", "1240", "0.8", "2", "3.10", "runs where it is thick, and breaks to amber on edges"});
  table.row({"celadon", "1260", "1.2", "5", "6.40", "needs a reduction that does not end before the cone falls"});
  table.row({"slip", "1100", "0.4", "0", "0.90", ""});
  return table;
}

} // namespace

TEST_SUITE("widths of tables") {
  TEST_CASE("a table that has room stands in one block, numbers to the right and words to the left") {
    Table table;
    table.column("glaze", Table::Align::left);
    table.column("melts at");
    table.row({"ash", "1240"});
    table.row({"celadon", "960"});
    CHECK(table.text() == "  glaze    melts at\n  ash          1240\n  celadon       960\n");
  }

  TEST_CASE("words go on under themselves") {
    const std::string text = of_glazes().text(80);
    CHECK(widest(text) <= 80);
    const auto lines = testing::lines_of(text);
    const std::size_t column = lines[0].find("what is known");
    REQUIRE(column != std::string::npos);
    CHECK(lines[1].find("runs where") == column);
    CHECK(lines[2].find_first_not_of(' ') == column); // the rest of that cell
    CHECK(text.find("amber on") != std::string::npos);
    CHECK(text.find("cone falls") != std::string::npos);
  }

  TEST_CASE("what has no room stands in a further block, behind the first column") {
    Table table;
    table.column("iteration");
    for (int k = 1; k <= 12; ++k) table.column("x" + std::to_string(k));
    for (int row = 0; row < 3; ++row) {
      std::vector<std::string> cells{std::to_string(row)};
      for (int k = 1; k <= 12; ++k) cells.push_back("-1.2345" + std::to_string(k));
      table.row(std::move(cells));
    }
    const std::string text = table.text(60);
    CHECK(widest(text) <= 60);
    const auto lines = testing::lines_of(text);
    CHECK(std::ranges::count(lines, std::string()) == 2); // three blocks
    CHECK(std::ranges::count_if(lines, [](const auto& line) { return line.starts_with("  iteration"); }) == 3);
    for (int k = 1; k <= 12; ++k) CHECK(text.find("-1.2345" + std::to_string(k)) != std::string::npos);
  }

  TEST_CASE("whatever the cells, no line is wider than asked where the columns allow it, and every cell is there") {
    rc::check("tables fit", [](const std::vector<std::vector<std::uint8_t>>& rows) {
      const std::size_t width = *rc::gen::inRange<std::size_t>(40, 160);
      Table table;
      table.column("name", Table::Align::left);
      for (int k = 1; k < 6; ++k) table.column("c" + std::to_string(k));
      std::vector<std::string> all;
      for (const auto& row : rows) {
        std::vector<std::string> cells;
        for (std::size_t k = 0; k < 6; ++k) {
          const std::size_t length = k < row.size() ? row[k] % 17U + 1U : 1U;
          cells.push_back(std::string(length, static_cast<char>('a' + k)));
        }
        all.insert(all.end(), cells.begin(), cells.end());
        table.row(std::move(cells));
      }
      const std::string text = table.text(width);
      RC_ASSERT(widest(text) <= width);
      for (const std::string& cell : all) RC_ASSERT(text.find(cell) != std::string::npos);
    });
  }

  TEST_CASE("a table without columns is nothing, and one without rows its headings") {
    CHECK(Table().text().empty());
    Table table;
    table.column("glaze", Table::Align::left);
    CHECK(table.text(80) == "  glaze\n");
  }

  TEST_CASE("what means something to Markdown or LaTeX is written as it is read") {
    CHECK(safe_in_markdown("a|b <script> *x* _y_ `z` [l](u) #1 & \\") ==
          "a\\|b \\<script\\> \\*x\\* \\_y\\_ \\`z\\` \\[l\\](u) \\#1 \\& \\\\");
    CHECK(safe_in_latex("50% of $x_1^2$ & {y}~\\z#") ==
          "50\\% of \\$x\\_1\\textasciicircum{}2\\$ \\& \\{y\\}\\textasciitilde{}\\textbackslash{}z\\#");
    Table table;
    table.column("a|b", Table::Align::left);
    table.row({"<b>x</b>"});
    CHECK(table.markdown() == "| a\\|b |\n| --- |\n| \\<b\\>x\\</b\\> |\n");
  }
}
