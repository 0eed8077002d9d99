#include "tanzen/external/run_program.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <csignal>
#include <fstream>
#include <stdexcept>
#include <thread>

using namespace tanzen;

TEST_SUITE("programs run to their end") {
  TEST_CASE("input, output, error stream and exit code go through") {
    const ProgramEnd end = run_program({"sh", "-c", "cat; echo said >&2; exit 3"}, "clay and sand");
    CHECK(end.output == "clay and sand");
    CHECK(end.errors == "said\n");
    CHECK(end.code == 3);
  }

  TEST_CASE("long texts go through whole, and nothing waits for a reader") {
    const std::string text(5'000'000, 'k');
    CHECK(run_program({"cat"}, text).output == text);
    CHECK(run_program({"sh", "-c", "head -c 3000000 /dev/zero | tr '\\0' e >&2"}, "").errors.size() == 3'000'000);
    CHECK(run_program({"true"}, text).code == 0); // it reads nothing
  }

  TEST_CASE("the output may be written at any place") {
    const ProgramEnd end = run_program(
        {"sh", "-c", "printf aaaa; printf bb | dd of=/dev/stdout bs=1 seek=1 conv=notrunc 2>/dev/null"}, "");
    CHECK(end.output == "abba");
  }

  TEST_CASE("words are no shell's") {
    const testing::TemporaryFolder folder;
    const std::string marked = "$(touch " + (folder / "made").string() + ")";
    CHECK(run_program({"printf", "%s", marked}, "").output == marked);
    CHECK(std::filesystem::is_empty(folder.path()));
  }

  TEST_CASE("a signal is told as the shell tells it, and a program that is not there says so") {
    CHECK(run_program({"sh", "-c", "kill -9 $$"}, "").code == 137);
    CHECK_THROWS_WITH_AS((void)run_program({"no-such-program-of-ours"}, ""),
                         doctest::Contains("cannot be started: No such file"), std::runtime_error);
  }

  TEST_CASE("what a program leaves behind ends with it") {
    const testing::TemporaryFolder folder;
    const auto mark = folder / "pid";
    CHECK(run_program({"sh", "-c", "sleep 1000 & echo $! > " + mark.string()}, "").code == 0);
    std::ifstream file(mark);
    pid_t left = 0;
    file >> left;
    REQUIRE(left > 0);
    for (int k = 0; k < 200 && kill(left, 0) == 0; ++k) std::this_thread::sleep_for(std::chrono::milliseconds(10));
    CHECK(kill(left, 0) != 0);
  }
}
