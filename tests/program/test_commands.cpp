#include "tanzen/files/outcome_file.hpp"
#include "tanzen/files/trace_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/program.hpp"
#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <regex>

using testing::contains;
using testing::ProgramResult;
using testing::run_program;
using testing::tanzen_line;
using testing::TemporaryFolder;

namespace {

/// A trace without the column that tells the time.
std::string without_seconds(const std::filesystem::path& path) {
  auto [label, trace] = tanzen::read_trace(path);
  std::string text;
  for (std::size_t row = 0; row < trace.rows(); ++row) {
    for (std::size_t k = 0; k < trace.row(row).size(); ++k) {
      if (k != tanzen::Trace::seconds) text += fmt::format("{},", trace.at(row, k));
    }
    text += '\n';
  }
  return text;
}

} // namespace

TEST_SUITE("solve") {
  TEST_CASE("thirty fixed steps contract each distance by one minus the step times its curvature") {
    const TemporaryFolder folder;
    const auto line = "tanzen solve --formula \"2*(x - 1)^2 + 0.7*(y + 2)^2\" --with gradient-descent:step=0.15 --from "
                      "6,-9 --iterations 30 --trace t.csv";
    const ProgramResult result = tanzen_line(line, folder.path());
    CHECK(result.code == 1);
    CHECK(contains(result.out, "the limit of 30 iterations is reached"));
    const auto trace = tanzen::read_trace(folder / "t.csv").trace;
    REQUIRE(trace.rows() == 31);
    const tanzen::Vector minimum{{1, -2}};
    for (std::size_t row = 1; row < trace.rows(); ++row) {
      const tanzen::Vector before = trace.point(row - 1) - minimum, after = trace.point(row) - minimum;
      CHECK((after - before.cwiseProduct(tanzen::Vector{{0.4, 0.79}})).norm() <= 1e-14 * before.norm() + 1e-15);
    }
  }

  TEST_CASE("how large a violation still counts as feasible is asked for, and a negative one refused") {
    const std::string line = "tanzen solve " TANZEN_SOURCE "/examples/round-kiln.toml --from 0.4,0.7 --evaluations 1 "
                             "--with augmented-lagrangian --json --feasibility ";
    CHECK(contains(tanzen_line(line + "1e-6").out, "\"feasible\":false"));
    CHECK(contains(tanzen_line(line + "1").out, "\"feasible\":true"));
    const ProgramResult refused = tanzen_line(line + "-1");
    CHECK(refused.code == 2);
    CHECK(contains(refused.err, "--feasibility"));
  }

  TEST_CASE("a step that flips says so, and one that leaves is reported as diverged") {
    const ProgramResult flips = tanzen_line("tanzen solve --formula \"2*(x - 1)^2 + 0.7*(y + 2)^2\" --with "
                                            "gradient-descent:step=0.5 --from 6,-9 --iterations 60");
    CHECK(flips.code == 1);
    CHECK(contains(flips.out, "the path flips between the two points (-4, -2) and (6, -2)"));
    CHECK_FALSE(contains(flips.out, "converged"));
    const ProgramResult leaves = tanzen_line(
        "tanzen solve --formula \"2*(x - 1)^2 + 0.7*(y + 2)^2\" --with gradient-descent:step=0.9 --from 6,-9");
    CHECK(leaves.code == 1);
    CHECK(contains(leaves.out, "  diverged      the value blew up"));
    CHECK(testing::says(leaves.out, "a step below 0.5 is stable"));
    CHECK_FALSE(contains(leaves.out, "  value   "));
  }

  TEST_CASE("exact steps are printed with their lengths") {
    const ProgramResult result = tanzen_line("tanzen solve --formula \"3*x^2 - 2*x*y + 2*y^2 - 5*x + 7*y\" --with "
                                             "gradient-descent:rule=exact --from 2,2 --iterations 2");
    CHECK(contains(result.out, "0.3201970443")); // 130/406
    CHECK(contains(result.out, "0.1454138702")); // g.g/g.Hg at the second point
  }

  TEST_CASE("the same seed gives the same bytes in the trace, apart from the seconds") {
    const TemporaryFolder folder;
    for (const char* method : {"nelder-mead", "gradient-descent:rule=backtracking", "differential-evolution"}) {
      for (const char* name : {"a.csv", "b.csv"}) {
        const ProgramResult result = tanzen_line(
            fmt::format("tanzen solve rastrigin:dim=3 --with {} --seed 7 --evaluations 3000 --trace {}", method, name),
            folder.path());
        CHECK(result.code <= 1);
      }
      CHECK(without_seconds(folder / "a.csv") == without_seconds(folder / "b.csv"));
    }
    CHECK(tanzen_line("tanzen solve rastrigin --with differential-evolution --seed 8 --trace b.csv", folder.path())
              .code == 0);
    CHECK(without_seconds(folder / "a.csv") != without_seconds(folder / "b.csv"));
  }

  TEST_CASE("one JSON object a run, repeats counted up from the seed") {
    const ProgramResult result = tanzen_line("tanzen solve himmelblau --with nelder-mead --seed 5 --repeats 3 --json");
    CHECK(result.code == 0);
    std::vector<tanzen::Outcome> outcomes;
    std::size_t begin = 0;
    for (std::size_t end = 0; (end = result.out.find('\n', begin)) != std::string::npos; begin = end + 1) {
      outcomes.push_back(tanzen::outcome_from_json(std::string_view(result.out).substr(begin, end - begin)).outcome);
    }
    REQUIRE(outcomes.size() == 3);
    CHECK(outcomes[0].seed == 5);
    CHECK(outcomes[2].seed == 7);
    CHECK(outcomes[0].start != outcomes[1].start);
    for (const auto& outcome : outcomes) CHECK(outcome.value < 1e-12);
  }

  TEST_CASE("the table shows about twenty rows, all with --every 1, none with --quiet") {
    const auto rows = [](const std::string& text) {
      const std::regex row("\n +[0-9]+ +[0-9]+ +[-0-9.e+]+ ");
      return std::distance(std::sregex_iterator(text.begin(), text.end(), row), {});
    };
    const std::string line = "tanzen solve rosenbrock --with gradient-descent:step=1e-3 --iterations 163";
    CHECK(rows(tanzen_line(line).out) == 18); // 0, 10, ... 160, 163
    CHECK(rows(tanzen_line(line + " --every 1").out) == 164);
    CHECK(rows(tanzen_line(line + " --every 50").out) == 5);
    CHECK(rows(tanzen_line(line + " --quiet").out) == 0);
  }

  TEST_CASE("what is typed overrides the problem") {
    CHECK(contains(
        tanzen_line("tanzen solve sphere --maximize --bounds -1:2 --from 1,1 --with gradient-descent:rule=backtracking")
            .out,
        "value         8"));
    CHECK(contains(tanzen_line("tanzen solve --formula \"a*(x - b)^2\" --fix a=3 --fix b=2 --quiet").out, "(2)"));
    CHECK(contains(tanzen_line("tanzen solve --formula \"x - y\" --variables y,x --from 1,5 --iterations 1").out,
                   "value 4"));
    CHECK(contains(tanzen_line("tanzen solve --formula \"x - y\" --from y=1,x=5 --iterations 1").out, "value 4"));
    CHECK(contains(tanzen_line("tanzen solve --formula \"sum(i = 1..n, i*(x[i] - i)^2)\" --variables x[3] --quiet").out,
                   "(1, 2, 3)"));
  }

  TEST_CASE("differences count as evaluations") {
    const ProgramResult result = tanzen_line(
        "tanzen solve sphere --from 1,1 --with gradient-descent --iterations 2 --derivative central --json");
    const auto outcome = tanzen::outcome_from_json(result.out).outcome;
    CHECK(outcome.counts[tanzen::Spent::evaluations] == 1 + 4 + 2 * 5);
    CHECK(outcome.counts[tanzen::Spent::gradients] == 0);
  }
}

TEST_SUITE("compare") {
  TEST_CASE("the table has a row for each method and says what its figures are") {
    const ProgramResult result =
        tanzen_line("tanzen compare sphere rastrigin --with nelder-mead --with differential-evolution --repeats 5");
    CHECK(result.code == 0);
    CHECK(contains(result.out, "sphere: gaps to the global best 0"));
    CHECK(contains(result.out, "nelder-mead                   5/5"));
    CHECK(contains(result.out, "differential-evolution        5/5"));
    CHECK(contains(result.out, "A success is a gap of at most 1e-07"));
  }

  TEST_CASE("the issue of rugged functions is decided as it should be") {
    const ProgramResult result = tanzen_line(
        "tanzen compare rastrigin:dim=5 --with differential-evolution --repeats 15 --evaluations 60000 --json");
    std::smatch found;
    REQUIRE(std::regex_search(result.out, found, std::regex("\"successes\":([0-9]+)")));
    CHECK(std::stoi(found[1]) >= 14);
  }
}

TEST_SUITE("lists and cards") {
  TEST_CASE("every problem and method is listed and has a card") {
    const std::string problems = tanzen_line("tanzen problems").out, methods = tanzen_line("tanzen methods").out;
    // What makes cards is the same for all; under sanitizers a start of the program takes its time.
    const std::size_t stride = testing::is_sanitized ? 5 : 1;
    std::size_t place = 0;
    for (const std::string& name : tanzen::testbed::names()) {
      CHECK(contains(problems, "  " + name + " "));
      if (place++ % stride != 0) continue;
      const ProgramResult card = tanzen_line("tanzen problems " + name);
      CHECK(card.code == 0);
      for (const char* line : {"  region ", "  source ", "  formula ", "  traits "}) CHECK(contains(card.out, line));
      CHECK((contains(card.out, "  global ") || contains(card.out, "  front ")));
    }
    for (const std::string& name : tanzen::standard_methods().names()) {
      CHECK(contains(methods, "  " + name + " "));
      if (place++ % stride != 0) continue;
      const ProgramResult card = tanzen_line("tanzen methods " + name);
      for (const char* line : {"  needs ", "  handles ", "  source ", "  setting "}) CHECK(contains(card.out, line));
    }
    CHECK(contains(tanzen_line("tanzen problems --formula \"x^2 + a\" --fix a=2").out, "formula       x^2 + a"));
  }

  TEST_CASE("every command's help has an example that works as printed") {
    const TemporaryFolder folder;
    std::filesystem::copy(TANZEN_SOURCE "/examples", folder.path() / "examples");
    for (const char* command : {"problems", "methods", "solve", "compare", "campaign", "figure landscape",
                                "figure slice", "check derivative"}) {
      CAPTURE(command);
      const ProgramResult help = tanzen_line(fmt::format("tanzen {} --help", command));
      CHECK(help.code == 0);
      const std::size_t example = help.out.find("Example: ");
      REQUIRE(example != std::string::npos);
      // Over several lines it is one command, as a shell reads it.
      std::string line = help.out.substr(example + 9);
      for (std::size_t end = 0; (end = line.find("\\\n")) != std::string::npos;) line.erase(end, 2);
      const ProgramResult result = tanzen_line(line.substr(0, line.find('\n')), folder.path());
      CHECK(result.code == 0);
      CHECK_FALSE(result.out.empty());
    }
  }

  TEST_CASE("the version is the library's") {
    CHECK(tanzen_line("tanzen --version").out == fmt::format("tanzen {}\n", tanzen::version));
  }
}

TEST_SUITE("sweep") {
  TEST_CASE("four steps side by side say which leaves, flips, goes home and crawls") {
    const TemporaryFolder folder;
    const auto result = tanzen_line(
        R"(tanzen sweep --formula "2*(draft - 1)^2 + draft*gas + 0.7*(gas + 2)^2" --with gradient-descent --from 6,-9 )"
        R"(--vary step=0.467,0.46,0.37,0.01 --iterations 40 --figure steps.png)",
        folder.path());
    CHECK(result.code == 0);
    for (const char* word : {"leaves", "flips", "goes home", "crawls"}) CHECK(contains(result.out, word));
    CHECK(std::filesystem::file_size(folder / "steps.png") > 20'000);
  }

  TEST_CASE("a map of two settings, and a map of starts") {
    const TemporaryFolder folder;
    const auto map =
        tanzen_line("tanzen sweep rosenbrock --with nadam --vary step=1e-3..1e0:5 --vary first=0.5..0.99:4 "
                    "--evaluations 300 --figure map.svg",
                    folder.path());
    CHECK(map.code == 0);
    CHECK(contains(map.out, "20, of them"));
    CHECK(contains(tanzen::read_file(folder / "map.svg"), "<svg"));
    const auto basins =
        tanzen_line("tanzen sweep himmelblau --with newton --vary start=grid:30x20 --figure basins.png", folder.path());
    CHECK(basins.code == 0);
    CHECK(contains(basins.out, "(-3.77931, -3.28319)"));
    CHECK(std::filesystem::exists(folder / "basins.png"));
    const auto paths =
        tanzen_line("tanzen figure paths rosenbrock --with bfgs --with nelder-mead --output paths.png", folder.path());
    CHECK(paths.code == 0);
    CHECK(contains(paths.out, "relative gradient"));
    const auto line =
        tanzen_line("tanzen figure search-line rosenbrock --with bfgs --iteration 4 --from -1.2,1 --output line.svg",
                    folder.path());
    CHECK(line.code == 0);
    CHECK(contains(tanzen::read_file(folder / "line.svg"), "step taken"));
    CHECK(std::filesystem::exists(folder / "paths.png"));
    const auto listed = tanzen_line("tanzen sweep rastrigin --with nelder-mead --vary start=20 --json", folder.path());
    CHECK(listed.out.starts_with("{\"point\":["));
  }
}

TEST_SUITE("looking at a problem") {
  TEST_CASE("the list is filtered by trait, dimension and name") {
    const std::string flat = tanzen_line("tanzen problems --trait plateau --dimension 2").out;
    CHECK(contains(flat, "  easom "));
    CHECK_FALSE(contains(flat, "  rosenbrock "));
    CHECK_FALSE(contains(flat, "  shekel-5 "));
    CHECK(contains(tanzen_line("tanzen problems --like camel").out, "six-hump-camel"));
    CHECK(contains(tanzen_line("tanzen problems --like nothing-like-it").out, "no problem fits"));
  }

  TEST_CASE("a problem is written as a file that says the same") {
    const TemporaryFolder folder;
    CHECK(tanzen_line("tanzen problems levy:dim=3 --write levy.toml", folder.path()).code == 0);
    const auto value_line = [&](const std::string& name) {
      const auto result = tanzen_line("tanzen problems " + name + " --at 0.3,-1,2", folder.path());
      return result.out.substr(result.out.find("  at "));
    };
    CHECK(value_line("levy.toml") == value_line("levy:dim=3"));
    const std::string kiln = testing::example_file("round-kiln.toml");
    CHECK(tanzen_line("tanzen problems " + kiln + " --fix u_wall=1.5 --write kiln.toml", folder.path()).code == 0);
    CHECK(contains(tanzen::read_file(folder / "kiln.toml"), "u_wall = 1.5"));
    CHECK(contains(tanzen_line("tanzen problems kiln.toml", folder.path()).out, "wall_loss + dome_loss"));
    const auto refused = tanzen_line("tanzen problems " + kiln + " --bounds 0:1 --write b.toml", folder.path());
    CHECK(refused.code == 2);
    CHECK_FALSE(std::filesystem::exists(folder / "b.toml"));
    const std::string cooling = testing::example_file("cooling.toml");
    CHECK(tanzen_line("tanzen problems " + cooling + " --write cooling.toml", folder.path()).code == 0);
    CHECK(contains(tanzen_line("tanzen problems cooling.toml", folder.path()).out, "10, summed by the loss squares"));
  }

  TEST_CASE("a point's value, gradient, Hessian and kind are printed") {
    const std::string minimum = tanzen_line("tanzen problems himmelblau --at 3,2").out;
    for (const char* part :
         {"value         0", "gradient      (0, 0)", "Hessian       (74, 20)", "(20, 34)", "stationary: minimum"})
      CHECK(contains(minimum, part));
    CHECK(contains(tanzen_line("tanzen problems --formula \"x^2 - y^2\" --at 0,0").out, "stationary: saddle"));
    CHECK(contains(tanzen_line("tanzen problems --formula \"log(x)\" --at -1").out, "outside the function's domain"));
    for (const auto& [objective, at, kind] :
         {std::tuple{"--minimize --formula x^2", "1", "not stationary; the curvature is that of a minimum"},
          {"--minimize --formula x^3", "0", "stationary: degenerate"},
          {"--minimize --formula 2*x", "0", "not stationary; the curvature is degenerate"},
          {"--minimize --formula x --bounds 0:1", "0", "stationary, on the bounds"},
          {"--minimize --formula x --bounds 0:1", "1", "not stationary, on the bounds"},
          {"--maximize --formula x --bounds 0:1", "1", "stationary, on the bounds"}}) {
      CAPTURE(objective);
      const auto printed = tanzen_line(fmt::format("tanzen problems {} --at {}", objective, at));
      CHECK(contains(printed.out, fmt::format("kind          {}\n", kind)));
    }
  }

  TEST_CASE("what a limit is worth is said where it is true: at a point that is stationary") {
    const std::string kiln = "tanzen problems " TANZEN_SOURCE "/examples/round-kiln.toml --at ";
    CHECK(testing::says(tanzen_line(kiln + "0.46771166,0.77951945").out, "active: one more unit costs 3.849"));
    const std::string elsewhere = tanzen_line(kiln + "0.6,0.2637").out;
    CHECK(contains(elsewhere, "capacity"));
    CHECK_FALSE(contains(elsewhere, "one more unit"));
    const TemporaryFolder folder;
    tanzen::write_file(folder / "log.toml",
                       "[problem]\nname = \"log\"\nminimize = \"x\"\n[variables]\nx = { start = 1 }\n"
                       "[constraints]\ncurve = \"log(x) <= 1\"\n");
    const std::string outside = tanzen_line("tanzen problems log.toml --at -1", folder.path()).out;
    CHECK(contains(outside, "has no value here"));
    CHECK_FALSE(contains(outside, "nan"));
  }

  TEST_CASE("derivatives are shown, and a wrong one is named") {
    const ProgramResult shown = tanzen_line("tanzen check derivative --formula \"x^2 + 3*y^2 - x*y\" --show");
    CHECK(shown.code == 0);
    CHECK(contains(shown.out, "d/dx          2*x - y"));
    CHECK(contains(shown.out, "d/dy          6*y - x"));
    const ProgramResult right = tanzen_line(
        "tanzen check derivative --formula \"x^2 + 3*y^2 - x*y\" --partial \"x=2*x - y\" --partial \"y=6*y - x\"");
    CHECK(right.code == 0);
    CHECK(contains(right.out, "agrees"));
    const ProgramResult wrong = tanzen_line(
        "tanzen check derivative --formula \"x^2 + 3*y^2 - x*y\" --partial \"x=2*x - y\" --partial \"y=6*y + x\"");
    CHECK(wrong.code == 1);
    CHECK(contains(wrong.out, "the derivative by y is that of another function"));
  }

  TEST_CASE("landscapes and slices are drawn for one, two and more variables") {
    const TemporaryFolder folder;
    for (const char* line :
         {"tanzen figure landscape line-two-sines --output a.png", "tanzen figure landscape eggholder --output a.png",
          "tanzen figure landscape rosenbrock --surface --output a.png",
          "tanzen figure landscape hartmann-3 --output a.png",
          "tanzen figure landscape sphere:dim=6 --plane x2,x5 --through 1,1,1,1,1,1 --output a.svg",
          "tanzen figure slice rosenbrock --from -1.2,1 --along 2,0 --output a.pdf",
          "tanzen figure landscape --formula \"1/x\" --output a.png",
          "tanzen figure landscape --formula \"10^(3*x)\" --output a.png",
          "tanzen figure landscape --formula \"0*x + 3\" --output a.png",
          "tanzen figure landscape --formula \"0*x + 0*y + 3\" --surface --output a.png"}) {
      CAPTURE(std::string(line));
      const ProgramResult result = tanzen_line(line, folder.path());
      CAPTURE(result.err);
      CHECK(result.code == 0);
    }
  }
}
