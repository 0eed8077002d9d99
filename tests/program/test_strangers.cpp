// Files that somebody else wrote are data: looked at, compared and drawn they start nothing and change nothing.
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"
#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <filesystem>
#include <fmt/format.h>

using namespace testing;
namespace fs = std::filesystem;

namespace {

/// What no output may hold: bytes that a terminal obeys.
bool is_harmless(const std::string& text) {
  return std::ranges::none_of(text, [](char c) {
    const auto byte = static_cast<unsigned char>(c);
    return (byte < 0x20 && c != '\n' && c != '\t') || byte == 0x7F;
  });
}

std::string in_toml(const std::string& text) {
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') quoted += '\\';
    if (static_cast<unsigned char>(c) < 0x20 || c == 0x7F)
      quoted += fmt::format("\\u{:04x}", static_cast<unsigned>(c));
    else
      quoted += c;
  }
  return quoted + "\"";
}

/// A plan with one method of that label beside a plain one.
std::string plan_with(const std::string& label) {
  return "seed = 1\nrepeats = 2\nproblems = [\"sphere:dim=2\", \"booth\"]\n[methods]\n" + in_toml(label) +
         " = { use = \"nelder-mead\" }\nplain = { use = \"bfgs\" }\n[stop]\nevaluations = 200\n";
}

/// A document without what it quotes as it is: blocks of code, and what stands between the ends of a listing.
std::string outside_listings(const std::string& text) {
  std::string outside;
  bool is_inside = false;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    const std::string line = text.substr(at, end - at);
    at = end + 1;
    if (line.starts_with("\\begin{verbatim}")) is_inside = true;
    if (!is_inside && !line.starts_with("    ")) outside += line + "\n";
    if (line.starts_with("\\end{verbatim}")) is_inside = false;
  }
  return outside;
}

/// Every way of looking at a results file; the last one of each line is the file that it makes.
const std::vector<std::string>& looks() {
  static const std::vector<std::string> all = {"tanzen compare plan.results.sqlite",
                                               "tanzen compare plan.results.sqlite --as markdown",
                                               "tanzen compare plan.results.sqlite --as latex",
                                               "tanzen compare plan.results.sqlite --as csv",
                                               "tanzen compare plan.results.sqlite --json",
                                               "tanzen campaign export plan.results.sqlite --folder tables",
                                               "tanzen figure ranks plan.results.sqlite --output ranks.png",
                                               "tanzen figure pair plan.results.sqlite --output pair.svg",
                                               "tanzen figure successes plan.results.sqlite --output successes.pdf",
                                               "tanzen figure accuracy plan.results.sqlite --output accuracy.html",
                                               "tanzen compare plan.results.sqlite --figures all",
                                               "tanzen report plan.results.sqlite --output report.html",
                                               "tanzen report plan.results.sqlite --output report.tex",
                                               "tanzen report plan.results.sqlite --output report.md"};
  return all;
}

} // namespace

TEST_SUITE("strangers") {
  TEST_CASE("a name with control characters is refused where a plan, a problem or a table brings it") {
    const TemporaryFolder folder;
    for (const std::string& label :
         {std::string("nm\nEOD\nsystem(\"touch PWN\")\n$j << EOD\nx"), std::string("x\n\\input{y}\n% "),
          std::string("\x1b[2J"), std::string("a\x7f"), std::string("a\tb")}) {
      tanzen::write_file(folder / "plan.toml", plan_with(label));
      const ProgramResult result = tanzen_line("tanzen campaign plan.toml", folder.path());
      CHECK(result.code == 2);
      CHECK(contains(result.err, "line 5: the name"));
      CHECK(contains(result.err, "control character U+00"));
      CHECK(is_harmless(result.err));
    }
    struct Row {
      const char *file, *content, *line;
    };
    for (const Row& row :
         {Row{"title.toml", "title = \"a\\u007fb\"\nproblems = [\"booth\"]\n[methods]\nbfgs = {}\n",
              "tanzen campaign title.toml"},
          Row{"name.toml", "[problem]\nname = \"a\\nb\"\nminimize = \"x^2\"\n[variables]\nx = {}\n",
              "tanzen problems name.toml"},
          Row{"unit.toml", "[problem]\nminimize = \"x^2\"\n[variables]\nx = { unit = \"m\\u001b[1m\" }\n",
              "tanzen problems unit.toml"},
          Row{"row.toml", "[problem]\nminimize = \"x^2\"\n[variables]\nx = {}\n[constraints]\n\"a\\nb\" = \"x >= 1\"\n",
              "tanzen solve row.toml"}}) {
      tanzen::write_file(folder / row.file, row.content);
      const ProgramResult result = tanzen_line(row.line, folder.path());
      CAPTURE(row.file);
      CHECK(result.code == 2);
      CHECK(contains(result.err, "control character U+00"));
      CHECK(is_harmless(result.err));
    }
  }

  TEST_CASE("names that mean something to other programs are drawn and written as they are read") {
    const TemporaryFolder folder;
    const std::string pwn = "`touch PWN`$(touch PWN)\"; system('touch PWN') #";
    for (const std::string& label :
         {std::string("step 50%"), std::string("5 %g"), std::string("f''(x)"), std::string("'quoted"),
          std::string("<script>x</script>"), std::string("\\input{y}"), std::string("a|b"), pwn}) {
      if (testing::is_sanitized && label != pwn) continue; // the one that holds most of them
      CAPTURE(label);
      tanzen::write_file(folder / "plan.toml", plan_with(label));
      fs::remove(folder / "plan.results.sqlite");
      REQUIRE(tanzen_line("tanzen campaign plan.toml --quiet", folder.path()).code == 0);
      for (const std::string& look : looks()) {
        CAPTURE(look);
        const ProgramResult result = tanzen_line(look, folder.path());
        CHECK(result.code == 0);
        CHECK(result.err.empty());
      }
      CHECK_FALSE(fs::exists(folder / "PWN"));
      CHECK_FALSE(fs::exists(folder / "all" / "PWN"));
      CHECK(fs::exists(folder / "all" / "ranks.png"));
      const std::string markdown = tanzen::read_file(folder / "report.md"),
                        latex = tanzen::read_file(folder / "report.tex");
      CHECK_FALSE(contains(outside_listings(markdown), "<script>"));
      CHECK_FALSE(contains(outside_listings(latex), "\\input{y}"));
      CHECK_FALSE(contains(tanzen::read_file(folder / "report.html"), "<script>x"));
    }
  }

  TEST_CASE("a picture shows a label to the letter") {
    const TemporaryFolder folder;
    for (const char* label : {"step 50%", "5 %g", "f''(x)"}) {
      tanzen::write_file(folder / "plan.toml", plan_with(label));
      fs::remove(folder / "plan.results.sqlite");
      REQUIRE(tanzen_line("tanzen campaign plan.toml --quiet", folder.path()).code == 0);
      for (const char* kind : {"ranks", "accuracy", "bands"}) {
        REQUIRE(
            tanzen_line(fmt::format("tanzen figure {} plan.results.sqlite --output a.svg", kind), folder.path()).code ==
            0);
        std::string picture = tanzen::read_file(folder / "a.svg");
        for (const auto& [from, to] : {std::pair{"&#39;", "'"}, std::pair{"&apos;", "'"}}) {
          for (std::size_t at = 0; (at = picture.find(from, at)) != std::string::npos;)
            picture.replace(at, std::string(from).size(), to);
        }
        CAPTURE(kind);
        CHECK(contains(picture, label));
      }
    }
  }

  TEST_CASE("names of files are no commands") {
    const TemporaryFolder folder;
    for (const char* name :
         {"|touch PWN;x.png", "<touch PWN;x.png", "-x.png", "it's.png", "a`touch PWN`.png", "two\nlines.png"}) {
      const ProgramResult made = testing::tanzen({"figure", "landscape", "booth", "--output", name}, folder.path());
      CAPTURE(name);
      CHECK(made.code == 0);
      CHECK(fs::exists(folder / name));
      CHECK_FALSE(fs::exists(folder / "PWN"));
      fs::remove(folder / name);
    }
    CHECK(fs::is_empty(folder.path()));
  }

  TEST_CASE("a program that a file asks for is started only where the problem is run, and then a line says which") {
    const TemporaryFolder folder;
    tanzen::write_file(folder / "trial.py", "open('STARTED', 'w').close()\nimport sys, json\nfor line in sys.stdin:\n"
                                            "    r = json.loads(line)\n    print(json.dumps({'id': r['id'], 'value': "
                                            "sum(x * x for x in r['point'])}), flush=True)\n");
    tanzen::write_file(folder / "theirs.toml",
                       "[program]\ncommand = [\"python3\", \"trial.py\"]\n[variables]\nx = { start = 1, "
                       "lower = -2, upper = 2 }\ny = { start = 1, lower = -2, upper = 2 }\n");
    tanzen::write_file(folder / "plan.toml",
                       "repeats = 2\nproblems = [\"theirs.toml\"]\n[methods]\nnelder-mead = {}\npowell = {}\n"
                       "[stop]\nevaluations = 30\n[best]\n\"theirs.toml\" = 0\n");
    for (const char* line : {"tanzen problems theirs.toml", "tanzen problems theirs.toml --write copy.toml",
                             "tanzen campaign plan.toml --dry-run"}) {
      const ProgramResult result = tanzen_line(line, folder.path());
      CAPTURE(line);
      CHECK(result.code == 0);
      CHECK(result.err.empty());
      CHECK_FALSE(fs::exists(folder / "STARTED"));
    }
    const ProgramResult solved = tanzen_line("tanzen solve theirs.toml --evaluations 40 --json", folder.path());
    CHECK(contains(solved.err, "python3 trial.py, started here: the problem's file asks for it"));
    CHECK(solved.out.starts_with("{")); // the line stands on the error stream
    CHECK(fs::exists(folder / "STARTED"));
    const ProgramResult campaign = tanzen_line("tanzen campaign plan.toml --quiet", folder.path());
    CHECK(contains(campaign.err, "python3 trial.py"));
    fs::remove(folder / "STARTED");
    for (const char* line :
         {"tanzen compare plan.results.sqlite", "tanzen report plan.results.sqlite --output a.html",
          "tanzen campaign export plan.results.sqlite", "tanzen figure accuracy plan.results.sqlite --output a.png"}) {
      CAPTURE(std::string(line));
      const ProgramResult looked = tanzen_line(line, folder.path());
      CAPTURE(looked.err);
      CHECK(looked.code == 0);
      CHECK_FALSE(fs::exists(folder / "STARTED"));
    }
  }

  TEST_CASE("a problem file written elsewhere finds its program from there") {
    const TemporaryFolder folder;
    fs::create_directories(folder / "a");
    fs::create_directories(folder / "b");
    tanzen::write_file(folder / "a/trial.py",
                       "import sys, json\nfor line in sys.stdin:\n    r = json.loads(line)\n"
                       "    print(json.dumps({'id': r['id'], 'value': r['point'][0] ** 2}), flush=True)\n");
    tanzen::write_file(folder / "a/p.toml",
                       "[program]\ncommand = [\"python3\", \"trial.py\"]\n[variables]\nx = { start = 1 }\n");
    REQUIRE(tanzen_line("tanzen problems a/p.toml --write b/p.toml", folder.path()).code == 0);
    const ProgramResult result = tanzen_line("tanzen solve b/p.toml --evaluations 20 --quiet", folder.path());
    CHECK(result.code <= 1);
    CHECK_FALSE(contains(result.out, "cannot be started"));
    CHECK(contains(result.out, "value         1") == false);
    CHECK(contains(tanzen::read_file(folder / "b/p.toml"), "../a/trial.py"));
  }

  TEST_CASE("what a program says is shown without what a terminal would obey") {
    const TemporaryFolder folder;
    tanzen::write_file(folder / "rude.py",
                       "import sys, json\nfor line in sys.stdin:\n    r = json.loads(line)\n"
                       "    print(json.dumps({'id': r['id'], 'error': '\\x1b[31mred\\x07'}), flush=True)\n");
    const ProgramResult result = testing::tanzen(
        {"solve", "--program", "python3 rude.py", "--variables", "x", "--from", "1", "--evaluations", "5"},
        folder.path());
    CHECK(is_harmless(result.out + result.err));
    CHECK(contains(result.out, "\\u{1b}[31mred\\u{7}"));
  }

  TEST_CASE("an answer nested without end is an answer that cannot be, not the end") {
    const TemporaryFolder folder;
    tanzen::write_file(folder / "deep.py", "import sys\nfor line in sys.stdin:\n    print('[' * 400000, flush=True)\n");
    const ProgramResult result = testing::tanzen(
        {"solve", "--program", "python3 deep.py", "--variables", "x", "--from", "1", "--evaluations", "3"},
        folder.path());
    CHECK(result.code == 1);
    CHECK(contains(result.out, "its answer is nested"));
  }

  TEST_CASE("an error of null beside a value is a value") {
    const TemporaryFolder folder;
    tanzen::write_file(folder / "polite.py",
                       "import sys, json\nfor line in sys.stdin:\n    r = json.loads(line)\n    print(json.dumps("
                       "{'id': r['id'], 'value': r['point'][0] ** 2, 'error': None}), flush=True)\n");
    const ProgramResult result = testing::tanzen(
        {"solve", "--program", "python3 polite.py", "--variables", "x", "--from", "1", "--evaluations", "9"},
        folder.path());
    CHECK_FALSE(contains(result.out, "broken"));
  }
}
