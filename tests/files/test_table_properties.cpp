// Tables of any shape read back, whatever separates their cells.
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/table_file.hpp"
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <bit>
#include <cmath>

using namespace tanzen;
using testing::TemporaryFolder;

namespace {

/// A number with any of its bits, or a plain one.
double any_number() {
  if (*rc::gen::inRange(0, 3) == 0) return static_cast<double>(*rc::gen::inRange(-1000, 1000)) / 8;
  const auto bits = *rc::gen::arbitrary<std::uint64_t>();
  const double number = std::bit_cast<double>(bits);
  return std::isfinite(number) ? number : 0.1;
}

DataTable any_table() {
  DataTable table;
  const int columns = *rc::gen::inRange(1, 6), rows = *rc::gen::inRange(1, 12);
  for (int k = 0; k < columns; ++k) table.columns.push_back("c" + std::to_string(k));
  table.rows.resize(rows, columns);
  for (double& cell : table.rows.reshaped()) cell = any_number();
  return table;
}

std::string with_separator(const DataTable& table, const std::string& separator, const std::string& end) {
  std::string text = joined(table.columns, separator) + end;
  for (Index row = 0; row < table.rows.rows(); ++row) {
    std::vector<std::string> cells;
    for (const double cell : table.rows.row(row)) cells.push_back(number_text(cell));
    text += joined(cells, separator) + end;
  }
  return text;
}

} // namespace

TEST_SUITE("tables of any shape") {
  TEST_CASE("a table written as CSV reads back to the bit") {
    const TemporaryFolder folder;
    rc::check("tables read back", [&] {
      const DataTable table = any_table();
      write_file(folder / "t.csv", table_to_csv(table));
      const DataTable read = read_table(folder / "t.csv");
      RC_ASSERT(read.columns == table.columns);
      RC_ASSERT(read.rows == table.rows);
      RC_ASSERT(table_columns(folder / "t.csv") == table.columns);
    });
  }

  TEST_CASE("commas, semicolons, tabulators and blanks, and the ends of lines of any system, say the same") {
    const TemporaryFolder folder;
    rc::check("separators say the same", [&] {
      const DataTable table = any_table();
      const std::string separator = *rc::gen::element<std::string>(",", ";", "\t", " ", ", ", "   ");
      const std::string end = *rc::gen::element<std::string>("\n", "\r\n");
      write_file(folder / "t.csv", with_separator(table, separator, end));
      const DataTable read = read_table(folder / "t.csv");
      RC_ASSERT(read.columns == table.columns);
      RC_ASSERT(read.rows == table.rows);
    });
  }

  TEST_CASE("whatever one byte is changed to, a table is read or refused with a message") {
    const TemporaryFolder folder;
    rc::check("damage is told", [&] {
      std::string text = table_to_csv(any_table());
      text[*rc::gen::inRange<std::size_t>(0, text.size())] = *rc::gen::arbitrary<char>();
      write_file(folder / "t.csv", text);
      try {
        const DataTable read = read_table(folder / "t.csv");
        RC_ASSERT(static_cast<Index>(read.columns.size()) == read.rows.cols());
      } catch (const InputError& error) {
        RC_ASSERT(!std::string(error.what()).empty());
      }
    });
  }
}
