// Whatever words a command gets, it answers with a code of its own, and with a message where they are wrong.
#include "support/program.hpp"
#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <array>
#include <random>
#include <string>

using namespace testing;

namespace {

const std::vector<std::string> any_command = {"problems", "methods", "solve",      "sweep", "compare",
                                              "campaign", "figure",  "fit",        "front", "sample",
                                              "check",    "report",  "stationary", "help",  "demo"};

/// Words that are right somewhere, or nowhere.
const std::vector<std::string> any_word = {"rosenbrock",
                                           "booth:dim=3",
                                           "sphere:dim=1e9",
                                           "x^2",
                                           "bfgs",
                                           "--with",
                                           "bfgs",
                                           "--with",
                                           "nelder-mead:size=-1",
                                           "--from",
                                           "1,2",
                                           "x=1,y=nan",
                                           "--formula",
                                           "x^2+y^2",
                                           "1/0*x",
                                           "--region",
                                           "-1:1",
                                           "1:-1",
                                           ":",
                                           "--bounds",
                                           "0:",
                                           "--seed",
                                           "-1",
                                           "--iterations",
                                           "2",
                                           "0",
                                           "1e30",
                                           "--evaluations",
                                           "10",
                                           "--gap",
                                           "nan",
                                           "--json",
                                           "--quiet",
                                           "--repeats",
                                           "2",
                                           "--vary",
                                           "step=0.1,0.2",
                                           "step=",
                                           "start=3",
                                           "--trace",
                                           "/dev/null/x.csv",
                                           "landscape",
                                           "ranks",
                                           "merge",
                                           "export",
                                           "method",
                                           "derivative",
                                           "--at",
                                           "0.5,0.5",
                                           "--fix",
                                           "a=1",
                                           "--maximize",
                                           "--minimize",
                                           "--model",
                                           "y = a*t",
                                           "none.csv",
                                           "none.toml",
                                           "none.sqlite",
                                           "--help",
                                           "--",
                                           "-",
                                           "",
                                           "=",
                                           "--=",
                                           "--with=",
                                           "\xff\xfe",
                                           "\x1b[2J",
                                           "--output",
                                           "a.bmp",
                                           "--seconds",
                                           "0.01",
                                           "--every",
                                           "1",
                                           "--target",
                                           "inf",
                                           "--as",
                                           "latex",
                                           "--workers",
                                           "2"};

} // namespace

TEST_SUITE("any words") {
  TEST_CASE("no words crash a command, and what is wrong is said in words of ours") {
    const TemporaryFolder folder;
    std::mt19937 random(20);
    const auto pick = [&](const std::vector<std::string>& from) { return from[random() % from.size()]; };
    const int lines = testing::is_sanitized ? 60 : 400;
    for (int k = 0; k < lines; ++k) {
      std::vector<std::string> line{pick(any_command)};
      if (line.front() == "demo") line.emplace_back("--no-such-option");
      for (auto count = random() % 7; count > 0; --count) line.push_back(pick(any_word));
      std::string shown;
      for (const std::string& word : line) shown += word + " ";
      CAPTURE(shown);
      // Long work is cut short; what a limit of time ends is no crash.
      std::vector<std::string> limited{"10", TANZEN_PROGRAM};
      limited.insert(limited.end(), line.begin(), line.end());
      const ProgramResult result = run_program("/usr/bin/timeout", limited, folder.path());
      const bool is_own_code = result.code <= 3 || result.code == 124 || result.code == 130;
      CHECK(is_own_code);
      if (result.code == 2) CHECK(result.err.starts_with("tanzen: "));
      for (const char* raw :
           {"std::", "json.exception", "terminate", "map::at", "basic_string", "Assertion", "AddressSanitizer"}) {
        CAPTURE(raw);
        CHECK_FALSE(contains(result.err, raw));
      }
      CHECK_FALSE(contains(result.out + result.err, "\x1b"));
    }
  }
}
