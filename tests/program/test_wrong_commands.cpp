#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

using testing::contains;
using testing::ProgramResult;
using testing::run_program;
using testing::tanzen_line;
using testing::TemporaryFolder;

namespace {

/// A wrong command, what its message says and what it must not lack.
struct WrongCommand {
  const char* line;
  const char* says;
};

constexpr WrongCommand wrong_commands[] = {
    {"tanzen slove", "tanzen has no command 'slove'; did you mean 'solve'?"},
    {"tanzen solve", "a problem is needed"},
    {"tanzen solve rosenbrok", "did you mean 'rosenbrock'?"},
    {"tanzen solve himmelblau:dim=3", "himmelblau exists for 2 variables, not for 3"},
    {"tanzen solve sphere --with neldermead", "did you mean 'nelder-mead'?"},
    {"tanzen solve sphere --with nelder-mead:sise=1", "did you mean 'size'?"},
    {"tanzen solve sphere --with nelder-mead:size=-1", "must be a number above 0; found '-1'"},
    {"tanzen solve sphere --with nelder-mead --with gradient-descent", "solve runs one method"},
    {"tanzen solve sphere --fron 0,0", "solve has no option '--fron'; did you mean '--from'?"},
    {"tanzen solve sphere --from 0,0,0", "--from has 3 coordinates, but the problem has 2 variables"},
    {"tanzen solve sphere --from 0,abc", "--from: 'abc' is no number"},
    {"tanzen solve sphere --from x1=1,x3=2", "there is no variable 'x3'"},
    {"tanzen solve sphere --from x1=1,x1=2", "gives x1 twice"},
    {"tanzen solve sphere --from 0,nan", "'nan' is no number"},
    {"tanzen solve sphere --bounds 0:1 --from 2,0", "the start lies outside the bounds: x1 = 2"},
    {"tanzen solve sphere --bounds 1:0", "the wrong way round: lower 1 is above upper 0"},
    {"tanzen solve sphere --region 1", "'1' is no interval"},
    {"tanzen solve sphere --region x9=0:1", "there is no variable 'x9'"},
    {"tanzen solve sphere --seed -1", "--seed must be a whole number of at least 0; found '-1'"},
    {"tanzen solve sphere --evaluations 0", "--evaluations must be a whole number of at least 1"},
    {"tanzen solve sphere --gap x", "--gap must be a number of at least 0; found 'x'"},
    {"tanzen solve sphere --derivative exakt", "did you mean 'exact'?"},
    {"tanzen solve sphere --trace a.xlsx", "a trace is written as .csv or .jsonl"},
    {"tanzen solve sphere --figure a.bmp", "a figure is drawn as .png, .svg, .pdf, .html, .gif or .mp4"},
    {"tanzen solve sphere --fix a=3", "--fix gives numbers to the names of a formula"},
    {"tanzen solve sphere --formula \"x^2\"", "both a problem ('sphere') and a formula"},
    {"tanzen solve --formula \"2x + y\"", "write 2*x"},
    {"tanzen solve --formula \"a*x\" --fix a", "'a' gives no value"},
    {"tanzen solve --formula \"x^2\" --gap 1", "best value is known"},
    {"tanzen solve --formula \"x + y\" --variables x", "there is no variable or parameter 'y'"},
    {"tanzen solve --formula \"3 + 4\"", "has no variable"},
    {"tanzen solve sphere --prefer knee", "has one objective, so there is nothing to choose between"},
    {"tanzen solve binh --prefer best", "--prefer takes knee, weights:0.3,0.7 or reference:12,30; found 'best'"},
    {"tanzen solve binh --prefer weights:1", "a number for each objective: 2, not 1"},
    {"tanzen solve binh --prefer reference:1,b", "'b' is no value"},
    {"tanzen solve dtlz-2:objectives=12", "must be at most 10"},
    {"tanzen solve binh --with bfgs", "bfgs works on one objective, and binh has 2"},
    {"tanzen solve sphere --with decomposition", "decomposition works on several objectives, and sphere has one"},
    {"tanzen figure population sphere --output p.png", "population looks at one method"},
    {"tanzen figure population sphere --with cma-es --at 0 --output p.png", "--at takes iterations"},
    {"tanzen figure ends sphere --output p.png", "ends needs methods"},
    {"tanzen figure sample sphere --sampling sobel --output p.png", "did you mean 'sobol'?"},
    {"tanzen figure sample sphere --points 0 --output p.png", "--points must be a whole number of at least 1"},
    {"tanzen solve sphere --population a.txt", "a population is written as .csv"},
    {"tanzen solve sphere --repeats 2 --population a.csv", "--figure and --report show one run"},
    {"tanzen solve sphere --jobs 0", "--jobs must be a whole number from 1 to 1024"},
    {"tanzen solve sphere --with multistart:local=bgfs", "must be a method: there is no method 'bgfs'"},
    {"tanzen solve eggholder --with multistart:local=bfgs",
     "bfgs cannot keep within bounds, and eggholder has them; these can:"},
    {"tanzen solve --program \"python3 trial.py\"", "a program needs the names of its variables"},
    {"tanzen solve --program trial --formula \"x^2\"", "both a formula and a program are given"},
    {"tanzen solve sphere --program trial --variables x", "both a problem ('sphere') and a program"},
    {"tanzen solve --program \"python3 'trial\" --variables x", "has a quote without its end"},
    {"tanzen solve --program trial --variables x[", "is no vector"},
    {"tanzen check method nelder-meed", "did you mean 'nelder-mead'?"},
    {"tanzen figure search-line sphere --output p.png", "search-line looks at one method"},
    {"tanzen figure search-line sphere --with newton --iteration 9 --from 1,1 --output p.png", "it has no iteration 9"},
    {"tanzen figure paths sphere --output p.png", "paths needs methods"},
    {"tanzen sweep sphere", "--with is required"},
    {"tanzen sweep sphere --with newton", "sweep varies one setting, two, or the start"},
    {"tanzen sweep sphere --with newton --vary step", "'step' gives no values"},
    {"tanzen sweep sphere --with momentum --vary stepp=1", "did you mean 'step'?"},
    {"tanzen sweep sphere --with momentum --vary step=1..2", "is no range with a count"},
    {"tanzen sweep sphere --with newton --vary start=0", "'0' is no count of starts"},
    {"tanzen sweep sphere:dim=3 --with newton --vary start=grid:3x3", "a grid of starts needs two variables"},
    {"tanzen sweep sphere --with newton --vary start=grid:3", "'grid:3' is no grid"},
    {"tanzen sweep sphere --with newton --vary start=3 --from 1,1", "leave one away"},
    {"tanzen sweep sphere --with newton --vary start=3 --figure a.png", "a figure of starts needs a grid"},
    {"tanzen solve sphere --with golden-section", "golden-section works in one variable, and sphere has 2"},
    {"tanzen solve eggholder --with newton", "newton cannot keep within bounds, and eggholder has them; these can:"},
    {"tanzen methods nelder", "did you mean 'nelder-mead'?"},
    {"tanzen problems sphere --write s.txt", "a problem file ends in .toml; found 's.txt'"},
    {"tanzen problems sphere:noise=normal:0.1 --write s.toml", "has noise, which cannot be written out"},
    {"tanzen problems spere", "did you mean 'sphere'?"},
    {"tanzen compare --with nelder-mead", "compare needs a problem"},
    {"tanzen compare sphere", "compare needs methods"},
    {"tanzen problems --trait smoth", "did you mean 'smooth'?"},
    {"tanzen problems sphere --at 1", "--at has 1 coordinate"},
    {"tanzen figure landscape sphere", "--output is required"},
    {"tanzen figure landscape sphere --output a.bmp", "a figure is drawn as .png, .svg, .pdf, .html, .gif or .mp4"},
    {"tanzen figure landscape sphere:dim=3 --plane x1,x9 --output a.png", "there is no variable 'x9'"},
    {"tanzen figure landscape sphere:dim=3 --plane x1 --output a.png", "two different variables"},
    {"tanzen figure landscape sphere:dim=1 --surface --output a.png", "a surface needs two variables"},
    {"tanzen figure slice sphere --from 0,0 --output a.png", "a slice needs its end"},
    {"tanzen figure slice sphere --from 0,0 --to 0,0 --output a.png", "has no length"},
    {"tanzen check derivative --formula \"x*y\" --partial x=y", "--partial for y is missing"},
    {"tanzen check derivative --formula \"x*y\" --partial z=y", "names no variable"},
    {"tanzen check derivative sphere:noise=normal:1 --show", "its derivatives cannot be written down"},
    {"tanzen compare sphere --with nelder-mead --repeats 0", "--repeats must be a whole number from 1 to 1000000"},
};

} // namespace

TEST_SUITE("bad input") {
  TEST_CASE("every wrong command ends with code 2, one message and nothing on its output") {
    const TemporaryFolder folder;
    for (const WrongCommand& wrong : wrong_commands) {
      CAPTURE(std::string(wrong.line));
      const ProgramResult result = tanzen_line(wrong.line, folder.path());
      CAPTURE(result.err);
      CHECK(result.code == 2);
      CHECK(contains(result.err, wrong.says));
      CHECK(result.err.starts_with("tanzen: "));
      CHECK(result.out.empty());
    }
    CHECK(std::filesystem::is_empty(folder.path()));
  }

  TEST_CASE("an error in a formula points at the character") {
    const ProgramResult result = tanzen_line("tanzen solve --formula \"x^2 + 3y\"");
    CHECK(
        result.err ==
        "tanzen: a number and a name need an operator between them: write 3*y, at column 8\n  x^2 + 3y\n         ^\n");
  }

  TEST_CASE("monstrous problem files get a message with its place, in bounded time") {
    const TemporaryFolder folder;
    const auto repeated = [](const char* part, int times) {
      std::string text;
      for (int i = 0; i < times; ++i) text += part;
      return text;
    };
    const auto result_of = [&](const std::string& formula) {
      tanzen::write_file(folder / "p.toml", "[problem]\nminimize = \"" + formula + "\"\n[variables]\nx = {}\n");
      return tanzen_line("tanzen problems p.toml", folder.path());
    };
    CHECK(result_of(repeated("x^2+", 250'000) + "x").code == 0);
    const std::pair<std::string, const char*> wrong[] = {
        {repeated("x^2+", 250'000), "but the formula ends, at column 1000001"},
        {std::string(100'000, '(') + "x" + std::string(100'000, ')'), "nested more than 1000 deep, at column 1001"},
        {std::string(100'000, '-') + "x", "nested more than 1000 deep, at column 1000"},
        {repeated("x^", 100'000) + "x", "nested more than 1000 deep, at column 2001"},
        {std::string(10'000, 'y') + "+x", "there is no variable or parameter 'yyyy"},
        {"x + \xff", "line 2, column 16: Encountered invalid utf-8"},
    };
    for (const auto& [formula, message] : wrong) {
      const ProgramResult result = result_of(formula);
      CAPTURE(message);
      CAPTURE(result.err);
      CHECK(result.code == 2);
      CHECK(contains(result.err, message));
      CHECK(result.err.size() < 1000);
    }
    tanzen::write_file(folder / "p.toml", "");
    CHECK(contains(tanzen_line("tanzen problems p.toml", folder.path()).err, "p.toml: the problem file is empty"));
  }

  TEST_CASE("a file that cannot be written ends with code 3, before anything is run") {
    const ProgramResult result = tanzen_line("tanzen solve sphere --from 1,1 --trace /nowhere/a.csv");
    CHECK(result.code == 3);
    CHECK(contains(result.err, "cannot write /nowhere/a.csv"));
    CHECK(result.out.empty());
  }

  TEST_CASE("an output that is full ends with code 3") {
    const ProgramResult result = run_program("/bin/sh", {"-c", std::string(TANZEN_PROGRAM) + " problems > /dev/full"});
    CHECK(result.code == 3);
    CHECK(contains(result.err, "could not be written"));
  }
}
