#include "tanzen/base/errors.hpp"
#include "tanzen/files/table_file.hpp"
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

using namespace tanzen;

namespace {

DataTable read_from(const std::string& text, const TableOptions& options = {}) {
  const testing::TemporaryFolder folder;
  write_file(folder / "t.csv", text);
  return read_table(folder / "t.csv", options);
}

/// What reading it says.
std::string fault_in(const std::string& text, const TableOptions& options = {}) {
  try {
    (void)read_from(text, options);
  } catch (const InputError& error) {
    return error.what();
  }
  return "";
}

bool says(const std::string& message, std::string_view part) {
  CAPTURE(message);
  return message.find(part) != std::string::npos;
}

} // namespace

TEST_SUITE("tables of data") {
  TEST_CASE("commas, semicolons, tabs and blanks part cells alike") {
    const Matrix wanted = Matrix{{1, -2.5}, {3e4, 0}};
    for (const char* text : {"a,b\n1,-2.5\n3e4,0\n", "a;b\n1;-2.5\n3e4;0\n", "a\tb\n1\t-2.5\n3e4\t0\n",
                             "a b\n1   -2.5\n  3e4 0\n", "\"a\", \"b\"\n1, -2.5\n3e4, 0", "a,b\r\n1,-2.5\r\n3e4,0\r\n",
                             "a,b\r1,-2.5\r3e4,0\r", "\xef\xbb\xbf# made\n\na,b\n1,-2.5\n# between\n3e4,0\n"}) {
      CAPTURE(text);
      const DataTable table = read_from(text);
      CHECK(table.columns == std::vector<std::string>{"a", "b"});
      CHECK(table.rows == wanted);
    }
  }

  TEST_CASE("names may be given, and must be where the file has none") {
    CHECK(read_from("1,2\n3,4\n", {.columns = {"x", "y"}}).rows == Matrix{{1, 2}, {3, 4}});
    const DataTable renamed = read_from("Time (min),T\n1,2\n", {.columns = {"minutes", "celsius"}});
    CHECK(renamed.columns == std::vector<std::string>{"minutes", "celsius"});
    CHECK(renamed.rows.rows() == 1);
    CHECK(says(fault_in("1,2\n3,4\n"),
               "the first line holds 2 numbers and no names of columns: name them, as in --columns x,y"));
    CHECK(says(fault_in("1,2\n", {.columns = {"x"}}), "1 name for 2 columns"));
    CHECK(says(fault_in("x,x\n1,2\n"), "the column 'x' is there twice"));
  }

  TEST_CASE("columns that are not asked for may hold anything") {
    const DataTable table = read_from("x,label,y\n1,first,2\n3,,4\n", {.only = std::set<std::string>{"x", "y"}});
    CHECK(table.columns == std::vector<std::string>{"x", "y"});
    CHECK(table.rows == Matrix{{1, 2}, {3, 4}});
    CHECK(says(fault_in("x,label,y\n1,first,2\n"), "line 2: 'first' in column label is no finite number"));
  }

  TEST_CASE("a cell that is missing, a decimal comma, a short row: each with its line") {
    CHECK(says(fault_in("x,y\n1,2\n3,\n"), "line 3: the cell in column y is empty"));
    CHECK(says(fault_in("x;y\n1;2,5\n"), "line 2: '2,5' in column y has a decimal comma: write 2.5"));
    CHECK(says(fault_in("x,y\n1,2\n3\n"), "line 3: 1 cells, but 2 columns"));
    CHECK(says(fault_in("x,y\n1,inf\n"), "'inf' in column y is no finite number"));
    CHECK(says(fault_in(""), "the table has no line of column names"));
  }
}
