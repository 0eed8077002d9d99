// What a file or an option can ask for has an end, and a message.
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <fmt/format.h>
#include <sys/stat.h>

using namespace testing;

TEST_SUITE("limits") {
  TEST_CASE("options that ask for too much say how much is the most") {
    struct Row {
      const char *line, *says;
    };
    for (const Row& row : {
             Row{"tanzen solve rosenbrock --jobs 1e7", "--jobs must be a whole number from 1 to 1024; found '1e7'"},
             Row{"tanzen solve rosenbrock --repeats 1e9", "--repeats must be a whole number from 1 to 1000000"},
             Row{"tanzen compare booth --with bfgs --repeats 1e9",
                 "--repeats must be a whole number from 1 to 1000000"},
             Row{"tanzen compare booth --with bfgs --workers 1e9", "--workers must be a whole number from 1 to 1024"},
             Row{"tanzen sample booth --points 1e12", "--points must be a whole number from 1 to 10000000"},
             Row{"tanzen solve weierstrass:levels=1e9", "levels"},
             Row{"tanzen sweep booth --with nadam --vary step=1..inf:5", "is no range"},
             Row{"tanzen sweep booth --with nadam --vary step=0.1,0.2 --vary step=0.1,0.3", "--vary gives step twice"},
             Row{"tanzen sweep booth --with nadam --vary step=0.1..1:9000 --vary decay=0.1..0.9:9000",
                 "at most 1000000 runs"},
             Row{"tanzen solve rosenbrock --with cma-es:population=1e17",
                 "must be a whole number at least 4 and at most 1000000; found '1e17'"},
         }) {
      CAPTURE(row.line);
      const ProgramResult result = tanzen_line(row.line);
      CHECK(result.code == 2);
      CHECK(contains(result.err, row.says));
      CHECK_FALSE(contains(result.err, "std::"));
    }
  }

  TEST_CASE("plans that ask for too much say how much is the most, at once") {
    const TemporaryFolder folder;
    const auto plan = [](const std::string& head, const std::string& problems) {
      return head + "problems = [" + problems + "]\n[methods]\nbfgs = {}\n";
    };
    std::string many = "\"sphere:dim=2";
    for (int k = 3; k < 1000; ++k) many += "," + std::to_string(k);
    std::string wide = many + ",shift=1";
    for (int k = 2; k < 1000; ++k) wide += "," + std::to_string(k);
    struct Row {
      std::string plan;
      const char* says;
    };
    for (const Row& row :
         {Row{plan("repeats = 1_000_000_000\n", "\"booth\""),
              "the number of repeats must be a whole number from 1 to 1000000"},
          Row{plan("repeats = 1_000_000\n", many + "\""), "the most is 10000000"},
          Row{plan("", wide + "\""), "comes to more than 100000 problems"},
          Row{plan("", "\"booth\"") + "[best]\nbooth = inf\n", "the best value of booth must be finite"}}) {
      tanzen::write_file(folder / "plan.toml", row.plan);
      const ProgramResult result = tanzen_line("tanzen campaign plan.toml", folder.path());
      CHECK(result.code == 2);
      CHECK(contains(result.err, row.says));
      CHECK_FALSE(std::filesystem::exists(folder / "plan.results.sqlite"));
    }
  }

  TEST_CASE("nesting has an end in every reader") {
    const TemporaryFolder folder;
    std::string name = "[a";
    for (int k = 0; k < 200'000; ++k) name += ".a";
    std::string terms = "[problem]\nminimize = \"t18000\"\n[variables]\nx = {}\n[terms]\nt0 = \"x\"\n";
    for (int k = 1; k <= 18'000; ++k) terms += fmt::format("t{} = \"t{} + 1\"\n", k, k - 1);
    const std::string deep = std::string(100'000, '[');
    struct Row {
      std::string content;
      const char* says;
    };
    for (const Row& row :
         {Row{name + "]\n", "line 1: a name has more than 100 parts"},
          Row{name.substr(1) + " = 1\n", "line 1: a name has more than 100 parts"},
          Row{terms, "terms stand in terms more than 200 deep"}, Row{"a = " + deep, "line 1"},
          Row{"[problem]\nminimize = \"" + std::string(100'000, '(') + "x\"\n[variables]\nx = {}\n", "nested"}}) {
      tanzen::write_file(folder / "deep.toml", row.content);
      for (const char* line : {"tanzen problems deep.toml", "tanzen solve deep.toml"}) {
        const ProgramResult result = tanzen_line(line, folder.path());
        CHECK(result.code == 2);
        CHECK(contains(result.err, row.says));
      }
    }
  }

  TEST_CASE("data that a file names must be a file") {
    const TemporaryFolder folder;
    REQUIRE(mkfifo((folder / "pipe").c_str(), 0600) == 0);
    for (const std::string& data : {std::string("/dev/zero"), std::string("pipe"), std::string("/dev")}) {
      tanzen::write_file(folder / "fit.toml",
                         "[variables]\na = { start = 1 }\n[fit]\ndata = \"" + data + "\"\nmodel = \"y = a*t\"\n");
      const ProgramResult result = tanzen_line("tanzen problems fit.toml", folder.path());
      CAPTURE(data);
      CHECK(result.code == 2);
      CHECK(contains(result.err, "the data must be a file"));
    }
    CHECK(contains(tanzen_line("tanzen fit /dev/zero --model \"y = a*t\"").err, "it is a device"));
  }

  TEST_CASE("a name that two lines give is refused") {
    const TemporaryFolder folder;
    tanzen::write_file(folder / "p.toml", "[problem]\nminimize = \"x1^2\"\n[variables]\nx = { count = 2 }\nx1 = {}\n");
    CHECK(contains(tanzen_line("tanzen problems p.toml", folder.path()).err,
                   "'x1' is an element of the vector x and has a line of its own"));
  }

  TEST_CASE("a results file has the ending by which it is known again") {
    const TemporaryFolder folder;
    tanzen::write_file(folder / "plan.toml", "problems = [\"booth\"]\n[methods]\nbfgs = {}\n");
    const ProgramResult result = tanzen_line("tanzen campaign plan.toml --output r.db", folder.path());
    CHECK(result.code == 2);
    CHECK(contains(result.err, "a results file ends in .sqlite; found 'r.db'"));
    CHECK(tanzen_line("tanzen campaign plan.toml --quiet --output :memory:.sqlite", folder.path()).code == 0);
    CHECK(std::filesystem::exists(folder / ":memory:.sqlite"));
  }

  TEST_CASE("degenerate problems have their pictures, or a reason") {
    const TemporaryFolder folder;
    for (const char* line :
         {"tanzen solve --formula \"x^2 + y^2\" --from 0,0 --with bfgs --quiet --figure a.png",
          "tanzen solve --formula \"x^2\" --from 0 --with bfgs --quiet --figure a.svg",
          "tanzen solve --formula \"1e308*x\" --from 1 --bounds 0:2 --with nelder-mead --quiet --figure a.png",
          "tanzen figure landscape --formula \"sqrt(-1 - x^2)\" --output a.png",
          "tanzen figure landscape --formula \"sqrt(-1 - x^2 - y^2)\" --output a.png",
          "tanzen figure landscape --formula \"x + y\" --region 1:1.0000000000000002 --output a.png",
          "tanzen figure landscape --formula \"x + y\" --region 1:1 --output a.png",
          "tanzen figure landscape --formula \"3 + 0*x + 0*y\" --output a.png",
          "tanzen figure landscape --formula \"3 + 0*x\" --output a.pdf",
          "tanzen figure landscape --formula \"1e308*x\" --output a.png",
          "tanzen figure slice --formula \"x^2 + y\" --from 1e-300,0 --to 2e-300,0 --output a.png"}) {
      CAPTURE(std::string(line));
      const ProgramResult result = tanzen_line(line, folder.path());
      CAPTURE(result.err);
      CHECK(result.code <= 2);
      CHECK_FALSE(contains(result.err, "gnuplot"));
      if (result.code == 2) CHECK(!result.err.empty());
    }
  }
}
