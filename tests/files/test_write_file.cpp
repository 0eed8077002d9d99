#include "tanzen/base/errors.hpp"
#include "tanzen/files/csv_cell.hpp"
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <fcntl.h>
#include <filesystem>
#include <limits>
#include <sys/stat.h>
#include <thread>
#include <unistd.h>
#include <vector>

using namespace tanzen;
using testing::TemporaryFolder;
namespace fs = std::filesystem;

namespace {

std::size_t files_in(const fs::path& folder) {
  return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), {}));
}

mode_t mode_of(const fs::path& path) {
  struct stat state {};
  REQUIRE(stat(path.c_str(), &state) == 0);
  return state.st_mode & 0777U;
}

} // namespace

TEST_SUITE("whole files") {
  TEST_CASE("a file written piece by piece appears when it is finished, and not before") {
    const TemporaryFolder folder;
    FileWriter file(folder / "table.csv");
    file.add("clay,");
    file.add("sand\n");
    CHECK(fs::is_empty(folder.path())); // not even a temporary one has a name
    file.finish();
    CHECK(read_file(folder / "table.csv") == "clay,sand\n");
    CHECK(files_in(folder.path()) == 1);
  }

  TEST_CASE("one that is not finished leaves the old file, and nothing beside it") {
    const TemporaryFolder folder;
    write_file(folder / "table.csv", "old");
    {
      FileWriter file(folder / "table.csv");
      file.add(std::string(1'000'000, 'n'));
      CHECK(files_in(folder.path()) == 1);
    }
    CHECK(read_file(folder / "table.csv") == "old");
    CHECK(files_in(folder.path()) == 1);
  }

  TEST_CASE("an old file is replaced as a whole, by a file of its mode") {
    const TemporaryFolder folder;
    write_file(folder / "secret.csv", "old");
    fs::permissions(folder / "secret.csv", fs::perms::owner_read | fs::perms::owner_write);
    write_file(folder / "secret.csv", "new");
    CHECK(read_file(folder / "secret.csv") == "new");
    CHECK(mode_of(folder / "secret.csv") == 0600);
    CHECK(files_in(folder.path()) == 1);
  }

  TEST_CASE("a new file has the mode that the user's mask leaves") {
    const TemporaryFolder folder;
    const mode_t before = umask(027);
    write_file(folder / "new.csv", "x");
    umask(before);
    CHECK(mode_of(folder / "new.csv") == 0640);
  }

  TEST_CASE("a link stays one, and what it names is written, also where nothing is there yet") {
    const TemporaryFolder folder, elsewhere;
    write_file(elsewhere / "kept.csv", "old");
    fs::create_symlink(elsewhere / "kept.csv", folder / "link.csv");
    fs::create_symlink(elsewhere / "coming.csv", folder / "dangling.csv");
    write_file(folder / "link.csv", "new");
    write_file(folder / "dangling.csv", "first");
    CHECK(fs::is_symlink(folder / "link.csv"));
    CHECK(read_file(elsewhere / "kept.csv") == "new");
    CHECK(read_file(elsewhere / "coming.csv") == "first");
    CHECK(files_in(folder.path()) == 2);
    CHECK(files_in(elsewhere.path()) == 2);
  }

  TEST_CASE("a link beside the target that was laid for a temporary file is not followed") {
    const TemporaryFolder folder, elsewhere;
    write_file(elsewhere / "precious.csv", "precious");
    // The name that earlier versions took.
    fs::create_symlink(elsewhere / "precious.csv", folder / ("a." + std::to_string(getpid()) + ".part.csv"));
    write_file(folder / "a.csv", "new");
    CHECK(read_file(elsewhere / "precious.csv") == "precious");
    CHECK(read_file(folder / "a.csv") == "new");
  }

  TEST_CASE("a pipe is written into, not replaced") {
    const TemporaryFolder folder;
    const fs::path pipe = folder / "pipe";
    REQUIRE(mkfifo(pipe.c_str(), 0600) == 0);
    std::string read;
    std::thread reader([&] { read = read_file(pipe); });
    write_file(pipe, "through the pipe");
    reader.join();
    CHECK(read == "through the pipe");
    CHECK(fs::is_fifo(pipe));
  }

  TEST_CASE("a device is written to, and one that is full says so") {
    CHECK_NOTHROW(write_file("/dev/null", "gone"));
    CHECK(fs::is_character_file("/dev/null"));
    if (!fs::exists("/dev/full")) return;
    CHECK_THROWS_WITH_AS(write_file("/dev/full", "x"), doctest::Contains("No space left on device"), FileError);
    CHECK_THROWS_WITH_AS(write_file("/dev/full/table.csv", "x"), doctest::Contains("cannot write"), FileError);
  }

  TEST_CASE("what cannot be written is told before the work, with the reason") {
    const TemporaryFolder folder;
    fs::create_directory(folder / "taken");
    write_file(folder / "file", "x");
    CHECK_NOTHROW(check_can_write(folder / "new.csv"));
    CHECK_NOTHROW(check_can_write(folder / "file"));
    CHECK_NOTHROW(check_can_write("here.csv"));
    CHECK_NOTHROW(check_can_write("/dev/null"));
    CHECK_THROWS_WITH_AS(check_can_write(folder / "none/new.csv"), doctest::Contains("there is no folder"), FileError);
    CHECK_THROWS_WITH_AS(check_can_write(folder / "file/new.csv"), doctest::Contains("is no folder"), FileError);
    CHECK_THROWS_WITH_AS(check_can_write(folder / "taken"), doctest::Contains("it is a folder"), FileError);
    CHECK_FALSE(fs::exists(folder / "new.csv")); // asking makes nothing
  }

  TEST_CASE("a device that never ends is not read, nor a folder") {
    CHECK_THROWS_WITH_AS((void)read_file("/dev/zero"), doctest::Contains("it is a device"), FileError);
    CHECK_THROWS_WITH_AS((void)read_file("/dev"), doctest::Contains("it is a folder"), FileError);
    CHECK_THROWS_WITH_AS((void)read_file("/none/at/all"), doctest::Contains("No such file"), FileError);
  }

  TEST_CASE("of several writers at once one file comes out whole, and nothing else") {
    const TemporaryFolder folder;
    std::vector<std::thread> writers;
    for (char letter = 'a'; letter <= 'h'; ++letter) {
      writers.emplace_back([&, letter] {
        for (int k = 0; k < 20; ++k) write_file(folder / "shared.csv", std::string(50'000, letter));
      });
    }
    for (std::thread& writer : writers) writer.join();
    const std::string content = read_file(folder / "shared.csv");
    CHECK(content.size() == 50'000);
    CHECK(content == std::string(50'000, content.front()));
    CHECK(files_in(folder.path()) == 1);
  }

  TEST_CASE("a full disk leaves the old file whole and nothing beside it") {
    const TemporaryFolder folder;
    // A disk of 48 kilobytes in a name space of its own, where the machine allows one.
    const std::string script = "mount -t tmpfs -o size=48k none " + (folder.path() / "disk").string() + " && cd " +
                               (folder.path() / "disk").string() +
                               " && echo old > trace.csv && chmod 600 trace.csv && { " + TANZEN_PROGRAM +
                               " solve rosenbrock --with gradient-descent:rule=fixed,step=1e-5 --iterations 3000 "
                               "--quiet --trace trace.csv > /dev/null; echo "
                               "code $?; cat trace.csv; ls -A; }";
    fs::create_directory(folder / "disk");
    const auto result = testing::run_program("/usr/bin/unshare", {"-m", "sh", "-c", script}, folder.path());
    if (result.out.find("code") == std::string::npos) {
      MESSAGE("this machine makes no name space with a disk of its own: " << result.err);
      return;
    }
    CHECK(result.out == "code 3\nold\ntrace.csv\n");
    CHECK(testing::contains(result.err, "No space left on device"));
  }
}

TEST_SUITE("cells of tables") {
  TEST_CASE("a cell is in quotes where it must be, and a number reads back") {
    CHECK(csv_cell("clay") == "clay");
    CHECK(csv_cell("clay, dry") == "\"clay, dry\"");
    CHECK(csv_cell("5\" pot") == "\"5\"\" pot\"");
    CHECK(csv_cell("two\nlines") == "\"two\nlines\"");
    CHECK(csv_cell(0.1) == "0.1");
    CHECK(csv_cell(-2.5) == "-2.5");
    CHECK(csv_cell(std::nan("")).empty());
    CHECK(csv_cell(std::numeric_limits<double>::infinity()) == "inf");
  }

  TEST_CASE("a word that programs of tables would compute is text to them") {
    for (const char* word : {"=1+1", "+1", "-1 step", "@SUM(A1)", "=cmd|' /C calc'!A0"}) {
      const std::string cell = csv_cell(word);
      CHECK(cell.starts_with("\"'"));
      CHECK(cell.ends_with("\""));
    }
  }
}
