// Texts in TOML files: what is one line, what is a name, and that all that is written reads back.
#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/files/problem_file.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

using namespace tanzen;

namespace {

/// Any text, as a name that a file may hold.
rc::Gen<std::string> names() {
  return rc::gen::map(rc::gen::arbitrary<std::string>(),
                      [](const std::string& text) { return "n" + readable_line(text); });
}

} // namespace

TEST_SUITE("texts in TOML") {
  TEST_CASE("a plan with any labels and title reads back as it was") {
    rc::check("plans read back", [] {
      const std::string a = *names(), b = *names(), title = *names();
      RC_PRE(a != b);
      const PlanDefinition plan{
          .title = title,
          .problems = {"booth"},
          .methods = {{.label = a, .use = "bfgs"}, {.label = b, .use = "nelder-mead", .settings = {{"size", "0.5"}}}}};
      const PlanDefinition read = plan_from_toml(plan_to_toml(plan));
      RC_ASSERT(read.title == title);
      RC_ASSERT(read.methods.size() == 2U);
      RC_ASSERT(read.methods[0].label == a);
      RC_ASSERT(read.methods[1].label == b);
      RC_ASSERT(read.methods[1].settings == plan.methods[1].settings);
    });
  }

  TEST_CASE("a problem with any title, unit and names of constraints reads back as it was") {
    rc::check("problems read back", [] {
      ProblemDefinition definition{.name = *names(), .title = *names()};
      definition.variables.push_back({.name = "x", .start = {1.5}, .unit = *names()});
      definition.objectives = {{.sense = Sense::maximize, .text = "-x^2"}};
      definition.constraints = {{*names(), "x >= -3"}};
      const ProblemDefinition read = definition_from_toml(definition_to_toml(definition));
      RC_ASSERT(read.name == definition.name);
      RC_ASSERT(read.title == definition.title);
      RC_ASSERT(read.variables[0].unit == definition.variables[0].unit);
      RC_ASSERT(read.constraints[0].name == definition.constraints[0].name);
      RC_ASSERT(build_problem(read).constraints()[0].name == definition.constraints[0].name);
    });
  }

  TEST_CASE("formulas may go over several lines; names and titles may not") {
    const ProblemDefinition read =
        definition_from_toml("[problem]\nminimize = \"\"\"\nx^2\n  + 3*x\"\"\"\n[variables]\nx = {}\n");
    CHECK(build_problem(read).value({2}) == 10);
    for (const char* text : {"[problem]\nname = \"a\\nb\"\nminimize = \"x\"\n[variables]\nx = {}\n",
                             "[problem]\ntitle = \"a\\tb\"\nminimize = \"x\"\n[variables]\nx = {}\n"})
      CHECK_THROWS_WITH_AS((void)definition_from_toml(text), doctest::Contains("line 2: the "), InputError);
  }

  TEST_CASE("counts have both ends in their messages, and say what was found") {
    CHECK_THROWS_WITH_AS((void)plan_from_toml("repeats = 0\nproblems = [\"booth\"]\n[methods]\nbfgs = {}\n"),
                         doctest::Contains("from 1 to 1000000; found 0"), InputError);
    CHECK_THROWS_WITH_AS((void)plan_from_toml("repeats = 2.5\nproblems = [\"booth\"]\n[methods]\nbfgs = {}\n"),
                         doctest::Contains("found 2.5"), InputError);
    CHECK_THROWS_WITH_AS((void)plan_from_toml("seed = -1\nproblems = [\"booth\"]\n[methods]\nbfgs = {}\n"),
                         doctest::Contains("of at least 0; found -1"), InputError);
  }

  TEST_CASE("a name of very many parts is refused before anything goes as deep") {
    std::string name = "a";
    for (int k = 0; k < 5000; ++k) name += ".a";
    for (const std::string& text : {"[" + name + "]\n", name + " = 1\n", "seed = 1\n[[" + name + "]]\n"}) {
      CHECK_THROWS_WITH_AS((void)plan_from_toml(text), doctest::Contains("more than 100 parts"), InputError);
      CHECK_THROWS_WITH_AS((void)definition_from_toml(text), doctest::Contains("more than 100 parts"), InputError);
    }
    // Numbers and texts may have as many points as they like.
    CHECK_NOTHROW((void)plan_from_toml("title = \"" + std::string(500, '.') +
                                       "\"\nproblems = [\"booth\"]\n[methods]\nbfgs = {}\n"));
  }
}
