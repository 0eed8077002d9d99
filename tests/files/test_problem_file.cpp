#include "tanzen/base/errors.hpp"
#include "tanzen/files/problem_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;
using testing::TemporaryFolder;

namespace {

constexpr const char* kiln = R"TOML(
[problem]
name = "small-kiln"
title = "Small round kiln with a flat lid"
minimize = "wall_loss + lid_loss"

[variables]
radius = { start = 1.0, lower = 0.3, upper = 2.5, unit = "m" }
wall   = { start = 1.0, lower = 0.3, upper = 2.5, unit = "m", scale = 0.5 }
lid    = { start = 1.0, lower = 0.3, upper = 2.0, unit = "m" }

[parameters]
u_wall = 0.9
u_lid = 2.4

[terms]
wall_loss = "u_wall * 6*radius*wall"
lid_loss = "u_lid * radius^2 * lid"

[constraints]
capacity = "3*radius^2*wall >= 0.75"
"bake, and glaze" = "radius = 1.2*lid"
)TOML";

std::string message_of(const std::string& text) {
  try {
    (void)build_problem(definition_from_toml(text));
  } catch (const InputError& error) {
    return error.what();
  }
  return "accepted";
}

} // namespace

TEST_SUITE("problem files") {
  TEST_CASE("the documented file is a problem with terms, units, bounds and constraints") {
    const Problem problem = build_problem(definition_from_toml(kiln));
    CHECK(problem.name() == "small-kiln");
    CHECK(problem.variable_names() == std::vector<std::string>{"radius", "wall", "lid"});
    CHECK(problem.variables()[0].unit == "m");
    CHECK(problem.value({1, 1, 1}) == doctest::Approx(0.9 * 6 + 2.4));
    CHECK(problem.bounds().upper() == Vector{{2.5, 2.5, 2}});
    CHECK(*problem.start() == Vector{{1, 1, 1}});
    REQUIRE(problem.constraints().size() == 2);
    CHECK(problem.constraints()[0].lower == 0.75);
    CHECK(problem.constraint_values({1, 1, 1})[0] == 3);
    CHECK(problem.typical_sizes() == Vector{{1, 0.5, 1}});
    CHECK(problem.constraints()[1].is_equality());
    CHECK(problem.constraints()[1].text == "radius = 1.2*lid");
    CHECK_THROWS_WITH_AS((void)run(problem, method("nelder-mead")),
                         doctest::Contains("nelder-mead cannot keep equality constraints, and small-kiln has 1; these "
                                           "can: augmented-lagrangian, sequential-quadratic"),
                         ProblemError);
  }

  TEST_CASE("a definition written back reads back to itself") {
    ProblemDefinition definition = definition_from_toml(kiln);
    definition.title = "quotes \" and \\ and more";
    definition.minima.push_back({Vector{{1, 2, 3}}, -1.5, false});
    const std::string text = definition_to_toml(definition);
    const ProblemDefinition again = definition_from_toml(text);
    CHECK(definition_to_toml(again) == text);
    CHECK(again.title == definition.title);
    CHECK(again.terms[1].text == definition.terms[1].text);
    CHECK(again.minima[0].point == definition.minima[0].point);
    CHECK_FALSE(again.minima[0].global);
    CHECK(build_problem(again).value({1.1, 1.2, 1.3}) == build_problem(definition).value({1.1, 1.2, 1.3}));
  }

  TEST_CASE("a problem written out gives the same values to the bit, with its start, region and minima") {
    for (const char* name :
         {"rosenbrock:dim=4,shift=1,placement=2", "branin", "hartmann-3", "schwefel:dim=3", "brown-badly-scaled"}) {
      CAPTURE(name);
      const Problem problem = testbed::parse_problem(name);
      const Problem again = build_problem(definition_from_toml(definition_to_toml(definition_of(problem))));
      CHECK(again.name() == problem.name());
      CHECK(again.region().lower == problem.region().lower);
      CHECK(again.region().upper == problem.region().upper);
      CHECK(again.start() == problem.start());
      CHECK(again.bounds().lower() == problem.bounds().lower());
      REQUIRE(again.known_minima().size() == problem.known_minima().size());
      const Vector middle = 0.3 * problem.region().lower + 0.7 * problem.region().upper;
      CHECK(again.value(middle) == problem.value(middle));
    }
    CHECK_THROWS_WITH_AS((void)definition_of(Problem::black_box(1, [](const Vector& x) { return x[0]; }).named("oven")),
                         "oven has no formula to write: its objective is only called", ProblemError);
    const Problem kept = build_problem(definition_from_toml(kiln));
    CHECK(definition_to_toml(definition_of(kept)) == definition_to_toml(definition_from_toml(kiln)));
    CHECK(definition_of(kept.start({1, 1.5, 1})).variables[1].start == std::vector<double>{1.5});
    const Problem own = Problem::from_formula("x*y").with_constraint("disc", "x*x + y*y <= 4").named("own");
    const Problem read = build_problem(definition_from_toml(definition_to_toml(definition_of(own))));
    CHECK(read.constraints().front().upper == 4);
    CHECK(read.constraint_values({1, 2})[0] == 5);
  }

  TEST_CASE("what is no text outside quotes is pointed at before it is read") {
    CHECK(message_of("[problem]\nminimize = \"x\"\n\xc3\xb7 = 1\n") ==
          "line 3, column 1: outside quotes a file is plain ASCII; found the byte 0xc3");
    CHECK(message_of("[\x01variables]\n").starts_with("line 1, column 2: "));
    CHECK(message_of("\"\xc3\xb7~\" = 1 \xc3\xb7\n") ==
          "line 1, column 10: outside quotes a file is plain ASCII; found the byte 0xc3");
    // Where a value is none, what looks like a quote is none either.
    CHECK(message_of("a = 4{{\"\xc8\x8b\"\n").starts_with("line 1, column 6: "));
    CHECK(message_of("a = 1.t'\xc3\xb7'\n").starts_with("line 1, column 7: "));
    CHECK(message_of("[problem] # \xc3\xb7\nname = \"\xc3\xb7\"\nminimize = 'x'\ntitle = \"\"\"\n\xc3\xb7\"\"\"\n"
                     "[variables]\nx = { region = [0, 1] }\n") == "accepted");
    CHECK(message_of("[problem]\nminimize = 'x'\n[variables]\nx = { region = [2, 1] }\n") ==
          "line 4: the region of x needs its two ends, the lower first: [-5, 5]");
  }

  TEST_CASE("a vector is one entry, used by its elements") {
    const Problem problem = build_problem(definition_from_toml(R"TOML(
[problem]
maximize = "-sum(i = 1..n, (x[i] - i)^2)"
[variables]
x = { count = 4, start = [1, 1, 1, 1], lower = 0, upper = 9 }
)TOML"));
    CHECK(problem.dimension() == 4);
    CHECK(problem.sense() == Sense::maximize);
    CHECK(problem.value({1, 2, 3, 4}) == 0);
    CHECK(problem.variable_names()[3] == "x4");
    const Problem several = build_problem(definition_from_toml(
        "[problem]\nobjectives = { gas = \"minimize x\", output = \"maximize y\" }\n[variables]\nx = {}\ny = {}\n"));
    REQUIRE(several.objectives().size() == 2);
    CHECK(several.objectives()[1].name == "output");
    CHECK(several.objectives()[1].sense == Sense::maximize);
    CHECK_THROWS_WITH_AS((void)run(several, method("nelder-mead")),
                         doctest::Contains("nelder-mead works on one objective, and unnamed has 2"), ProblemError);
  }

  TEST_CASE("a fit sums the squares of its residual over the rows of its table") {
    const TemporaryFolder folder;
    write_file(folder / "line.csv", "# made up\nt,y\n0,1\n1,3\n2,5\n");
    write_file(folder / "line.toml", "[problem]\nname = \"line\"\n[variables]\na = { start = 0 }\nb = { start = 0 "
                                     "}\n[fit]\ndata = \"line.csv\"\nresidual = \"a + b*t - y\"\n");
    const Problem problem = build_problem(read_definition(folder / "line.toml"));
    CHECK(problem.value({0, 0}) == 35);
    CHECK(problem.value({1, 2}) == 0);
    CHECK(problem.parts().residuals == 3);
    CHECK(run(problem, method("nelder-mead")).value < 1e-15);
  }

  TEST_CASE("every wrong file says what is wrong and where") {
    const std::string head = "[problem]\nminimize = \"x^2\"\n[variables]\n";
    CHECK(message_of("") == "the problem file is empty");
    CHECK(message_of("[problem\n").starts_with("line 1, column "));
    CHECK(message_of("[problm]\n").find("did you mean 'problem'?") != std::string::npos);
    CHECK(message_of(head + "x = { star = 1 }\n").find("did you mean 'start'?") != std::string::npos);
    CHECK(message_of(head + "x = { start = \"one\" }\n")
              .find("line 4: the start of x must be a number or a list of numbers") != std::string::npos);
    CHECK(message_of(head + "x = { lower = 2, upper = 1 }\n").find("wrong way round") != std::string::npos);
    CHECK(message_of(head + "x = { count = 2.5 }\n").find("whole number") != std::string::npos);
    CHECK(message_of(head + "x = { count = 3, start = [1, 2] }\n").find("has 2 numbers, but x has 3 elements") !=
          std::string::npos);
    CHECK(message_of(head + "x = { start = 1 }\ny = {}\n").find("some variables have a start") != std::string::npos);
    CHECK(message_of(head + "sin = {}\n").find("meaning of its own") != std::string::npos);
    CHECK(message_of(head + "x = {}\n[parameters]\nx = 1\n").find("'x' is given twice") != std::string::npos);
    CHECK(message_of(head + "x = {}\n[parameters]\na = nan\n").find("the parameter a must be a number") !=
          std::string::npos);
    CHECK(message_of(head + "x = {}\n[terms]\na = \"2x\"\n").find("in the term 'a': a number and a name") !=
          std::string::npos);
    CHECK(message_of(head + "x = {}\n[constraints]\nc = \"x + 1\"\n").find("a constraint compares two values") !=
          std::string::npos);
    CHECK(message_of(head + "x = {}\n[constraints]\nc = \"x <= q\"\n")
              .find("in the constraint 'c': there is no variable or parameter 'q'") != std::string::npos);
    CHECK(message_of("[problem]\nminimize = \"x\"\nmaximize = \"x\"\n[variables]\nx = {}\n")
              .find("only one of minimize, maximize") != std::string::npos);
    CHECK(message_of("[problem]\nname = \"a\"\n[variables]\nx = {}\n").find("there is no objective") !=
          std::string::npos);
    CHECK(message_of("[problem]\nminimize = \"x\"\n").find("there are no variables") != std::string::npos);
    CHECK(message_of("[problem]\nminimize = \"x + \"\n[variables]\nx = {}\n")
              .find("in the objective: expected a number") != std::string::npos);
  }

  TEST_CASE("a table with a hole or no number is refused with its line") {
    const TemporaryFolder folder;
    write_file(folder / "fit.toml",
               "[problem]\nname = \"f\"\n[variables]\na = {}\n[fit]\ndata = \"d.csv\"\nresidual = \"a*t - y\"\n");
    const auto refused = [&](const char* data, const char* says) {
      write_file(folder / "d.csv", data);
      CHECK_THROWS_WITH_AS((void)read_definition(folder / "fit.toml"), doctest::Contains(says), InputError);
    };
    refused("t,y\n1,2\n3\n", "line 3: 1 cells, but 2 columns");
    refused("t,y\n1,nan\n", "line 2: 'nan' in column y is no finite number");
    refused("t,y\n1,x\n", "'x' in column y");
    std::filesystem::remove(folder / "d.csv");
    CHECK_THROWS_AS((void)read_definition(folder / "fit.toml"), FileError);
  }

  TEST_CASE("the example files are read, run and changed from the command line") {
    const std::filesystem::path examples = std::filesystem::path(TANZEN_SOURCE) / "examples";
    const auto card = testing::tanzen_line("tanzen problems cooling.toml", examples);
    CHECK(card.code == 0);
    CHECK(testing::contains(card.out, "10, summed by the loss squares"));
    const auto fitted = testing::tanzen_line("tanzen solve cooling.toml --with nelder-mead --quiet", examples);
    CHECK(fitted.code == 0);
    CHECK(testing::contains(fitted.out, ", 0.0057"));
    const auto plain = testing::tanzen_line("tanzen problems round-kiln.toml --at 1,0.5", examples);
    const auto changed = testing::tanzen_line("tanzen problems round-kiln.toml --at 1,0.5 --fix u_dome=0", examples);
    CHECK(testing::contains(plain.out, "value         13.1946891451"));
    CHECK(testing::contains(changed.out, "value         4.39822971503"));
    CHECK(testing::contains(plain.out, "capacity")); // with its value, limit and slack
    CHECK(testing::contains(plain.out, ">= 0.75"));
    const auto refused = testing::tanzen_line("tanzen problems round-kiln.toml --fix u_dme=0", examples);
    CHECK(refused.code == 2);
    CHECK(testing::contains(refused.err, "did you mean 'u_dome'?"));
    CHECK(testing::tanzen_line("tanzen solve none.toml", examples).code == 3);
  }

  TEST_CASE("the round kiln's multiplier is what a litre more of capacity costs, read from files with other limits") {
    const std::string text = read_file(std::filesystem::path(TANZEN_SOURCE) / "examples/round-kiln.toml");
    const std::string limit = ">= 0.75";
    REQUIRE(text.find(limit) != std::string::npos);
    const auto solved = [&](const std::string& other) {
      std::string changed = text;
      changed.replace(changed.find(limit), limit.size(), other);
      return run(build_problem(definition_from_toml(changed)), method("augmented-lagrangian"));
    };
    const Outcome outcome = solved(limit);
    CHECK(outcome.converged());
    CHECK(outcome.violation <= 1e-6);
    CHECK(outcome.checked.kkt < 1e-6);
    REQUIRE(outcome.checked.constraints.size() == 2);
    const ConstraintState& capacity = outcome.checked.constraints[0];
    CHECK(capacity.active);
    const double change = (solved(">= 0.7501").value - solved(">= 0.7499").value) / 2e-4;
    CHECK(capacity.multiplier == doctest::Approx(change).epsilon(1e-5));
    CHECK_FALSE(outcome.checked.constraints[1].active);
    CHECK(outcome.checked.constraints[1].multiplier == 0);
  }
}
