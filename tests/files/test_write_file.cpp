#include "tanzen/base/errors.hpp"
#include "tanzen/files/csv_cell.hpp"
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <limits>

using namespace tanzen;
using testing::TemporaryFolder;

namespace {

std::size_t files_in(const std::filesystem::path& folder) {
  std::size_t count = 0;
  for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(folder)) ++count;
  return count;
}

} // namespace

TEST_SUITE("whole files") {
  TEST_CASE("a file written piece by piece appears when it is finished, and not before") {
    const TemporaryFolder folder;
    FileWriter file(folder / "table.csv");
    file.add("clay,");
    file.add("sand\n");
    CHECK_FALSE(std::filesystem::exists(folder / "table.csv"));
    file.finish();
    CHECK(read_file(folder / "table.csv") == "clay,sand\n");
    CHECK(files_in(folder.path()) == 1);
  }

  TEST_CASE("one that is not finished leaves the old file, and nothing beside it") {
    const TemporaryFolder folder;
    write_file(folder / "table.csv", "old");
    {
      FileWriter file(folder / "table.csv");
      file.add("new");
    }
    CHECK(read_file(folder / "table.csv") == "old");
    CHECK(files_in(folder.path()) == 1);
  }

  TEST_CASE("a full disk is said to be so") {
    // Every write to this device finds no room. Nothing can be renamed onto it, so the old file stays in any case.
    if (!std::filesystem::exists("/dev/full")) return;
    CHECK_THROWS_WITH_AS(write_file("/dev/full/table.csv", "x"), doctest::Contains("cannot write"), FileError);
  }

  TEST_CASE("a cell is in quotes where it must be, and a number reads back") {
    CHECK(csv_cell("clay") == "clay");
    CHECK(csv_cell("clay, dry") == "\"clay, dry\"");
    CHECK(csv_cell("5\" pot") == "\"5\"\" pot\"");
    CHECK(csv_cell("two\nlines") == "\"two\nlines\"");
    CHECK(csv_cell(0.1) == "0.1");
    CHECK(csv_cell(std::nan("")).empty());
    CHECK(csv_cell(std::numeric_limits<double>::infinity()) == "inf");
  }
}
