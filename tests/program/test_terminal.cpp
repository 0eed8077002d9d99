// What is printed fits where it is printed.
#include "tanzen/base/text.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <fmt/format.h>

using namespace testing;

namespace {

/// The widest line, in characters; a word that is wider than all has no better place.
std::size_t widest_line(const std::string& text, std::size_t width) {
  std::size_t widest = 0;
  for (const std::string& line : tanzen::split(text, '\n')) {
    const std::string_view words = tanzen::trimmed(line);
    if (words.find(' ') == std::string_view::npos && tanzen::character_count(words) > width / 2) continue;
    widest = std::max(widest, tanzen::character_count(line));
  }
  return widest;
}

const std::vector<std::vector<std::string>>& commands() {
  static const std::vector<std::vector<std::string>> all = {{},
                                                            {"problems"},
                                                            {"methods"},
                                                            {"solve"},
                                                            {"sweep"},
                                                            {"compare"},
                                                            {"campaign"},
                                                            {"figure"},
                                                            {"fit"},
                                                            {"front"},
                                                            {"report"},
                                                            {"sample"},
                                                            {"check"},
                                                            {"demo"},
                                                            {"stationary"},
                                                            {"help"},
                                                            {"campaign", "merge"},
                                                            {"campaign", "export"},
                                                            {"figure", "landscape"},
                                                            {"figure", "paths"},
                                                            {"figure", "ranks"},
                                                            {"check", "method"},
                                                            {"check", "derivative"}};
  return all;
}

} // namespace

TEST_SUITE("terminals") {
  TEST_CASE("help fits 80 columns, and names the command as it is typed") {
    for (const auto& words : commands()) {
      std::string name = "tanzen";
      for (const std::string& word : words) name += " " + word;
      CAPTURE(name);
      std::vector<std::string> line = words;
      line.emplace_back("--help");
      const ProgramResult result = testing::tanzen(line);
      CHECK(result.code == 0);
      CHECK(contains(result.out, "Usage: " + name));
      CHECK(widest_line(result.out, 80) <= 80);
    }
  }

  TEST_CASE("tanzen help says what --help says, and proposes the near command") {
    for (const auto& words : commands()) {
      std::vector<std::string> help{"help"}, option = words;
      help.insert(help.end(), words.begin(), words.end());
      option.emplace_back("--help");
      CHECK(testing::tanzen(help).out == testing::tanzen(option).out);
    }
    const ProgramResult wrong = testing::tanzen({"help", "solv"});
    CHECK(wrong.code == 2);
    CHECK(contains(wrong.err, "tanzen has no command 'solv'; did you mean 'solve'?"));
    CHECK(contains(testing::tanzen({"help", "campaign", "merg"}).err, "did you mean 'merge'?"));
    CHECK(contains(testing::tanzen({"help", "--as", "manul"}).err, "did you mean 'manual'?"));
  }

  TEST_CASE("the manual and the completions know every command") {
    const std::string manual = testing::tanzen({"help", "--as", "manual"}).out,
                      bash = testing::tanzen({"help", "--as", "bash"}).out;
    CHECK(manual.starts_with(".TH tanzen 1"));
    for (const char* command : {"solve", "sweep", "compare", "campaign", "figure", "report", "stationary"}) {
      CHECK(contains(manual, fmt::format(".SS tanzen {}", command)));
      CHECK(contains(bash, fmt::format("'tanzen {}') words=", command)));
    }
    CHECK(contains(bash, "'tanzen campaign merge') words="));
    const TemporaryFolder folder;
    const auto completed = [&](const std::string& typed) {
      return run_program("/bin/bash",
                         {"-c", bash + "\nCOMP_WORDS=(" + typed +
                                    ")\nCOMP_CWORD=$((${#COMP_WORDS[@]}-1))\n_tanzen\n"
                                    "echo \"${COMPREPLY[@]}\""},
                         folder.path())
          .out;
    };
    CHECK(contains(completed("tanzen so"), "solve"));
    CHECK(contains(completed("tanzen solve --gradient-t"), "--gradient-tolerance"));
    CHECK(contains(completed("tanzen campaign m"), "merge"));
    CHECK(contains(completed("tanzen figure land"), "landscape"));
  }

  TEST_CASE("what commands print fits 80, 100 and 160 columns of a terminal, and 100 in a pipe") {
    const TemporaryFolder folder;
    const std::vector<std::vector<std::string>> lines = {
        {"problems"},
        {"problems", "rosenbrock"},
        {"problems", testing::example_file("round-kiln.toml"), "--at", "0.6,0.8"},
        {"methods"},
        {"methods", "gradient-descent"},
        {"methods", "cma-es"},
        {"solve", "rosenbrock:dim=3", "--with", "cma-es", "--evaluations", "500"},
        {"solve", testing::example_file("round-kiln.toml"), "--with", "augmented-lagrangian"},
        {"solve", "rastrigin", "--with", "nelder-mead", "--repeats", "5"},
        {"solve", "himmelblau", "--with", "single-linkage", "--all-minima", "--quiet"},
        {"sweep", "rosenbrock", "--with", "nadam", "--vary", "step=1e-3..1e0:7", "--evaluations", "2000"},
        {"compare", "rosenbrock", "rastrigin:dim=2", "--with", "nelder-mead", "--with", "differential-evolution",
         "--with", "bfgs", "--repeats", "3", "--evaluations", "500"},
        {"campaign", testing::example_file("valleys.toml"), "--dry-run"},
        {"fit", testing::example_file("cooling.csv"), "--model", "celsius = room + (peak - room)*exp(-rate*minutes)",
         "--from", "room=20,peak=1000,rate=0.01"},
        {"stationary", "himmelblau", "--show"},
        {"front", testing::example_file("glaze-points.csv"), "--objectives", "gas,breakage", "--reference", "60,70"},
        {"sample", testing::example_file("glaze-firing.toml"), "--points", "20"},
        {"check", "method", "bfgs"}};
    for (const auto& line : lines) {
      CAPTURE(line.front() + " " + (line.size() > 1 ? line[1] : ""));
      const ProgramResult piped = testing::tanzen(line, folder.path());
      CHECK(piped.code <= 1);
      CHECK(widest_line(piped.out, 100) <= 100);
      for (const unsigned columns : {80U, 100U, 160U}) {
        const std::string shown = tanzen_on_terminal(line, columns, folder.path()).out;
        CAPTURE(columns);
        CHECK(!shown.empty());
        CHECK(widest_line(shown, columns) <= columns);
      }
    }
  }

  TEST_CASE("a terminal narrower than 80 columns is taken for one of 80") {
    const std::string narrow = tanzen_on_terminal({"methods"}, 30).out;
    CHECK(widest_line(narrow, 80) <= 80);
    CHECK(widest_line(narrow, 80) > 30);
  }

  TEST_CASE("words that have no place get the near one") {
    struct Row {
      const char *line, *says;
    };
    for (const Row& row :
         {Row{"tanzen slove booth", "tanzen has no command 'slove'; did you mean 'solve'?"},
          Row{"tanzen figure landscap booth", "tanzen figure has no command 'landscap'; did you mean 'landscape'?"},
          Row{"tanzen figure", "tanzen figure needs a command: one of landscape"},
          Row{"tanzen solve rosenbrock bfgs", "does not know what to do with 'bfgs'; a method is named by --with bfgs"},
          Row{"tanzen solve rosenbrock iterations=5", "tanzen solve does not know what to do with 'iterations=5'"},
          Row{"tanzen solve rosenbrock --iteratons 5", "did you mean '--iterations'?"},
          Row{"tanzen solve rosenbrok", "did you mean 'rosenbrock'?"},
          Row{"tanzen solve rosenbrock --with bfg", "did you mean 'bfgs'?"},
          Row{"tanzen campaign merg a b", "did you mean 'tanzen campaign merge'?"},
          Row{"tanzen figure ranks", "tanzen figure ranks: "}}) {
      CAPTURE(row.line);
      const ProgramResult result = tanzen_line(row.line);
      CHECK(result.code == 2);
      CHECK(contains(result.err, row.says));
    }
  }
}
