#include "tanzen/base/errors.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/problem/problem.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <limits>

using namespace tanzen;

namespace {

/// What the program says of a problem of x and y under one constraint.
testing::ProgramResult said_of(const std::string& constraint) {
  const testing::TemporaryFolder folder;
  write_file(folder / "p.toml", "[problem]\nminimize = \"x^2 + y^2\"\n[variables]\nx = { start = 1 }\n"
                                "y = { start = 1 }\n[constraints]\nlimit = \"" +
                                    constraint + "\"\n");
  return testing::tanzen({"solve", (folder / "p.toml").string(), "--quiet"});
}

} // namespace

TEST_SUITE("messages on constraints") {
  TEST_CASE("what is no constraint of the variables is refused, with its name, its place and what would be right") {
    struct Case {
      const char* text;
      const char* message;
    };
    for (const Case& each : {
             Case{"3 <= 4", "in the constraint 'limit': this constraint compares numbers alone"},
             Case{"1 = 2", "this constraint compares numbers alone: no variable can change whether it holds"},
             Case{"x <= 0/0", "the limit of this constraint is not a number"},
             Case{"2 <= x <= 1", "the lower limit 2 is above the upper one 1"},
             Case{"x <= nan", "there is no variable or parameter 'nan'"},
             Case{"x + y", "write left <= right, left >= right or left = right"},
             Case{"x <= 1 <= y", "the outer sides of lower <= value <= upper must be numbers"},
             Case{"1 <= x >= 0", "two comparisons go the same way"},
             Case{"0 <= x <= 1 <= 2", "at most two comparisons"},
         }) {
      CAPTURE(each.text);
      const auto result = said_of(each.text);
      CHECK(result.code == 2);
      CHECK(result.err.find("p.toml") != std::string::npos);
      CHECK(result.err.find(each.message) != std::string::npos);
      CHECK(result.out.empty());
    }
  }

  TEST_CASE("what is never or always true is told by the run") {
    const auto never = said_of("x^2 + y^2 <= -1");
    CHECK(never.code == 1);
    CHECK(never.out.find("limit cannot be kept near this point") != std::string::npos);
    const auto always = said_of("x^2 + y^2 >= -1");
    CHECK(always.code == 0);
    CHECK(always.out.find("limit holds at all 2000 points looked at in the region around the start") !=
          std::string::npos);
  }

  TEST_CASE("rows given in C++ are refused in the same way") {
    const Problem plain = Problem::from_formula("x + y");
    const auto row = [&](double lower, double upper) {
      return plain.with_constraints({{.name = "row", .lower = lower, .upper = upper}},
                                    [](const auto& x) { return std::vector<Expr>{x[0]}; });
    };
    const double nan = std::numeric_limits<double>::quiet_NaN();
    CHECK_THROWS_AS((void)row(nan, 1), ProblemError);
    CHECK_THROWS_AS((void)row(0, nan), ProblemError);
    CHECK_THROWS_AS((void)row(2, 1), ProblemError);
    CHECK_THROWS_AS((void)plain.with_constraints({{.name = "a", .text = "x <= 1"}, {.name = "b", .text = "1 <= 2"}}),
                    TextError);
  }
}
