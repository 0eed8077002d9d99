#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <chrono>
#include <csignal>
#include <filesystem>
#include <random>
#include <regex>
#include <sys/mount.h>
#include <sys/stat.h>
#include <thread>
#include <unistd.h>

using testing::contains;
using testing::shell;
using testing::tanzen_line;
using testing::TemporaryFolder;

namespace {

namespace fs = std::filesystem;

constexpr const char* small_plan = R"(title = "Two valleys and a rugged bowl"
repeats = 4
problems = ["rosenbrock:dim=2,5", "rastrigin"]
[methods]
bfgs = {}
simplex = { use = "nelder-mead", size = 0.5 }
[stop]
evaluations = 2000
)";

/// Two seconds of short runs for one worker, some more for sanitizers.
constexpr const char* long_plan = R"(repeats = 60
problems = ["rastrigin:dim=3,5", "ackley:dim=5", "schwefel:dim=3"]
[methods]
evolution = { use = "differential-evolution" }
cma-es = {}
[stop]
evaluations = 20000
)";

/// The exported tables as one text, without the times.
std::string tables_of(const fs::path& results, const fs::path& folder) {
  const fs::path tables = folder / ("tables-" + results.stem().string());
  const auto exported = testing::tanzen({"campaign", "export", results.string(), "--folder", tables.string()}, folder);
  CAPTURE(exported.err);
  REQUIRE(exported.code == 0);
  const std::string runs = tanzen::read_file(tables / "runs.csv");
  std::string timeless;
  for (std::size_t begin = 0; begin < runs.size();) {
    const std::size_t end = runs.find('\n', begin);
    const std::string line = runs.substr(begin, end - begin);
    timeless += line.substr(0, line.rfind(',')) + "\n";
    begin = end + 1;
  }
  return timeless + tanzen::read_file(tables / "hits.csv") + tanzen::read_file(tables / "traces.csv");
}

struct PlanFolder {
  TemporaryFolder folder;

  explicit PlanFolder(const char* plan) { tanzen::write_file(folder / "plan.toml", plan); }
  [[nodiscard]] testing::ProgramResult run(const std::string& arguments) const {
    return tanzen_line("tanzen campaign plan.toml --quiet " + arguments, folder.path());
  }
  [[nodiscard]] std::string tables(const char* results) const { return tables_of(folder / results, folder.path()); }
};

std::string in_quotes(const fs::path& path) {
  return fmt::format("'{}'", path.string());
}

/// The rows that a query of a results file gives, as another reader of SQLite prints them.
std::vector<std::string> query(const fs::path& results, const std::string& sql) {
  const auto answer = testing::run_program(
      "/usr/bin/env",
      {"python3", "-c", "import sqlite3, sys; print(*sqlite3.connect(sys.argv[1]).execute(sys.argv[2]), sep='\\n')",
       results.string(), sql});
  CAPTURE(answer.err);
  REQUIRE(answer.code == 0);
  return tanzen::split(tanzen::trimmed(answer.out), '\n');
}

} // namespace

TEST_SUITE("campaign command") {
  TEST_CASE("one worker, two, two processes with two, and three parts merged give the same tables") {
    const PlanFolder plan(small_plan);
    CHECK(plan.run("--workers 1 --output one.sqlite").code == 0);
    CHECK(plan.run("--workers 2 --output two.sqlite").code == 0);
    for (const char* part : {"1/3", "2/3", "3/3"}) CHECK(plan.run(std::string("--part ") + part).code == 0);
    const auto merged = tanzen_line("tanzen campaign merge merged.sqlite plan.1of3.results.sqlite "
                                    "plan.2of3.results.sqlite plan.3of3.results.sqlite",
                                    plan.folder.path());
    CHECK(contains(merged.out, "24 runs"));
    const std::string expected = plan.tables("one.sqlite");
    CHECK(plan.tables("two.sqlite") == expected);
    CHECK(plan.tables("merged.sqlite") == expected);
    if (!fs::exists(TANZEN_MPI_PROGRAM)) return; // built where there is an MPI
    // What MPI's own library keeps to its end is no leak of ours.
    const auto processes = shell(fmt::format("ASAN_OPTIONS=detect_leaks=0 mpirun --allow-run-as-root --oversubscribe "
                                             "-n 2 {} plan.toml --workers 2 --output mpi.sqlite",
                                             TANZEN_MPI_PROGRAM),
                                 plan.folder.path());
    CAPTURE(processes.err);
    CHECK(processes.code == 0);
    CHECK(contains(processes.out, "24 of 24 runs"));
    CHECK(plan.tables("mpi.sqlite") == expected);
  }

  TEST_CASE("the description of the file names every table with every column") {
    const PlanFolder plan(small_plan);
    CHECK(plan.run("--output all.sqlite").code == 0);
    const std::string document = tanzen::read_file(fs::path(TANZEN_SOURCE) / "docs" / "results-file.md");
    const auto columns = query(plan.folder / "all.sqlite", "SELECT m.name || '|' || c.name FROM sqlite_master AS m, "
                                                           "pragma_table_info(m.name) AS c WHERE m.type <> 'index'");
    CHECK(columns.size() > 40);
    for (const std::string& line : columns) {
      CAPTURE(line);
      std::smatch names;
      REQUIRE(std::regex_match(line, names, std::regex(R"(\('(\w+)\|(\w+)',\))")));
      std::smatch row;
      REQUIRE(std::regex_search(document, row, std::regex(fmt::format("\n\\| `{}`[^\n]*", names[1].str()))));
      CHECK(contains(row.str(), fmt::format("`{}`", names[2].str())));
    }
  }

  TEST_CASE("the queries in the description of the file give what the exported tables say") {
    const PlanFolder plan(small_plan);
    CHECK(plan.run("--output all.sqlite").code == 0);
    const std::string document = tanzen::read_file(fs::path(TANZEN_SOURCE) / "docs" / "results-file.md");
    const std::regex block("```sql\n([^`]*)```");
    std::vector<std::vector<std::string>> answers;
    for (auto match = std::sregex_iterator(document.begin(), document.end(), block); match != std::sregex_iterator();
         ++match)
      answers.push_back(query(plan.folder / "all.sqlite", (*match)[1].str()));
    REQUIRE(answers.size() == 2);
    CHECK(answers[0].size() == 6); // three problems, two methods
    CHECK(answers[0][0].starts_with("('rosenbrock:dim=2', 'bfgs', 4, 1.0, "));
    // Four repeats of the first method reach the first target; all lines of the table are counted.
    CHECK(answers[1][0].starts_with("('rosenbrock:dim=2', 'bfgs', "));
    CHECK(contains(answers[1][0], ", 4, "));
    (void)plan.tables("all.sqlite");
    int counted = 0;
    const std::regex count(", ([0-9]+), [0-9.]+\\)$");
    for (const std::string& line : answers[1]) {
      std::smatch found;
      REQUIRE(std::regex_search(line, found, count));
      counted += std::stoi(found[1]);
    }
    const std::string hits = tanzen::read_file(plan.folder / "tables-all" / "hits.csv");
    CHECK(counted == std::ranges::count(hits, '\n') - 1);
  }

  TEST_CASE("killed at fifty random moments and resumed, it comes to what it would have come to") {
    const PlanFolder plan(long_plan);
    std::mt19937 random(7);
    // The moments are spread over some six tenths of what it takes undisturbed, however slow the program was built.
    const auto began = std::chrono::steady_clock::now();
    CHECK(plan.run("--workers 1 --output whole.sqlite").code == 0);
    const std::chrono::duration<double, std::milli> whole = std::chrono::steady_clock::now() - began;
    std::uniform_int_distribution<int> milliseconds(1, std::max(20, static_cast<int>(whole.count() / 40)));
    const std::string expected = plan.tables("whole.sqlite");
    for (int killed = 0; killed < 50;) {
      testing::RunningProgram program(
          TANZEN_PROGRAM, {"campaign", "plan.toml", "--quiet", "--workers", "1", "--output", "killed.sqlite"},
          plan.folder.path());
      std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds(random)));
      program.send(SIGKILL);
      const int code = program.wait();
      if (code == 1000 + SIGKILL) {
        ++killed;
        continue;
      }
      REQUIRE(code == 0); // it had come to its end; the rest of the fifty hit another one
      CHECK(plan.tables("killed.sqlite") == expected);
      fs::remove(plan.folder / "killed.sqlite");
    }
    const auto last = plan.run("--output killed.sqlite");
    CAPTURE(last.err);
    CHECK(last.code == 0);
    CHECK(contains(last.out, "runs in the file already"));
    CHECK(plan.tables("killed.sqlite") == expected);
  }

  TEST_CASE("Ctrl-C finishes the writing and leaves a file that resumes") {
    const PlanFolder plan(long_plan);
    testing::RunningProgram program(TANZEN_PROGRAM, {"campaign", "plan.toml", "--quiet"}, plan.folder.path());
    while (!fs::exists(plan.folder / "plan.results.sqlite")) std::this_thread::yield();
    std::this_thread::sleep_for(std::chrono::milliseconds(200));
    program.send(SIGINT);
    CHECK(program.wait() == 130);
    CHECK_FALSE(fs::exists(plan.folder / "plan.results.sqlite-wal"));
    const auto resumed = plan.run("");
    CHECK(resumed.code == 0);
    CHECK(contains(resumed.out, "runs in the file already"));
    CHECK(plan.run("--output whole.sqlite").code == 0);
    CHECK(plan.tables("plan.results.sqlite") == plan.tables("whole.sqlite"));
  }

  TEST_CASE("two processes on one file: the second is told so, the first is not disturbed") {
    const PlanFolder plan(long_plan);
    testing::RunningProgram first(TANZEN_PROGRAM, {"campaign", "plan.toml", "--quiet"}, plan.folder.path());
    while (!fs::exists(plan.folder / "plan.results.sqlite")) std::this_thread::yield();
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
    const auto second = plan.run("");
    CHECK(second.code == 3);
    CHECK(contains(second.err, "another program is writing to it"));
    CHECK(first.wait() == 0);
    CHECK(contains(plan.run("").out, "480 runs in the file already"));
  }

  TEST_CASE("a disk that is full is said to be so; with room again it goes on") {
    const PlanFolder plan(long_plan);
    // A limit on the size of files does for any user what a full disk does.
    const std::string command = std::string(TANZEN_PROGRAM) + " campaign plan.toml --quiet";
    const auto limited = shell("trap '' XFSZ; ulimit -f 400; exec " + command, plan.folder.path());
    CHECK(limited.code == 3);
    CHECK(contains(limited.err, "the disk is full; what was finished is kept"));
    CHECK(plan.run("").code == 0);
    CHECK(plan.run("--output whole.sqlite").code == 0);
    CHECK(plan.tables("plan.results.sqlite") == plan.tables("whole.sqlite"));

    const fs::path disk = plan.folder / "disk";
    fs::create_directory(disk);
    if (mount("tmpfs", disk.c_str(), "tmpfs", 0, "size=300k") != 0) return; // only root can make a disk of its own
    const auto full = plan.run("--output disk/a.sqlite");
    CHECK(full.code == 3);
    CHECK(contains(full.err, "the disk is full"));
    CHECK(mount("tmpfs", disk.c_str(), "tmpfs", MS_REMOUNT, "size=60m") == 0);
    CHECK(plan.run("--output disk/a.sqlite").code == 0);
    CHECK(tables_of(disk / "a.sqlite", plan.folder.path()) == plan.tables("whole.sqlite"));
    umount(disk.c_str());
  }

  TEST_CASE("a folder that is read-only is said to be so") {
    const PlanFolder plan(small_plan);
    std::string command = std::string(TANZEN_PROGRAM) + " campaign plan.toml --quiet";
    if (geteuid() == 0) { // nothing is read-only for root
      fs::copy_file(TANZEN_PROGRAM, plan.folder / "program");
      command =
          "setpriv --reuid=65534 --clear-groups " + in_quotes(plan.folder / "program") + " campaign plan.toml --quiet";
      fs::permissions(plan.folder.path(), fs::perms(0755));
      fs::permissions(plan.folder / "plan.toml", fs::perms(0644));
    } else {
      fs::permissions(plan.folder.path(), fs::perms(0555));
    }
    const auto refused = shell(command, plan.folder.path());
    CHECK(refused.code == 3);
    CHECK(contains(refused.err, "plan.results.sqlite: it cannot be written: Permission denied"));
    fs::permissions(plan.folder.path(), fs::perms(0755));
    CHECK_FALSE(fs::exists(plan.folder / "plan.results.sqlite"));
  }

  TEST_CASE("a truncated file is refused and left as it is") {
    const PlanFolder plan(small_plan);
    REQUIRE(plan.run("").code == 0);
    const std::string whole = tanzen::read_file(plan.folder / "plan.results.sqlite");
    const std::string cut = whole.substr(0, whole.size() / 2);
    tanzen::write_file(plan.folder / "plan.results.sqlite", cut);
    for (const char* command : {"tanzen campaign plan.toml", "tanzen compare plan.results.sqlite"}) {
      const auto refused = tanzen_line(command, plan.folder.path());
      CHECK(refused.code == 3);
      CHECK(contains(refused.err, "the file is damaged"));
    }
    CHECK(tanzen::read_file(plan.folder / "plan.results.sqlite") == cut);
  }

  TEST_CASE("what always fails, throws or hangs ends in the tables with its reason") {
    const PlanFolder plan("repeats = 3\nproblems = [\"sphere\", \"hanging.toml\"]\n[methods]\nsimplex = { use = "
                          "\"nelder-mead\" }\nbfgs = {}\n[stop]\nevaluations = 30\n[best]\n\"hanging.toml\" = 0\n");
    tanzen::write_file(plan.folder / "hanging.toml",
                       "[variables]\nx = { region = [0, 1] }\n[program]\ncommand = [\"sleep\", \"60\"]\ntimeout = "
                       "0.05\nrestarts = 1\n");
    const auto done = plan.run("");
    CAPTURE(done.err);
    CHECK(done.code == 0);
    CHECK(contains(done.out, "12 runs"));
    const auto compared = tanzen_line("tanzen compare plan.results.sqlite", plan.folder.path());
    CAPTURE(compared.out);
    CHECK(compared.code == 0);
    CHECK(contains(compared.out, "simplex on hanging.toml: 3 of 3 runs failed, the first because"));
    CHECK(contains(compared.out, "0/3"));
  }

  TEST_CASE("a dry run says what the plan comes to and writes nothing") {
    const PlanFolder plan(small_plan);
    const auto shown = plan.run("--dry-run");
    CHECK(shown.code == 0);
    CHECK(contains(shown.out, "24: 3 problems, 2 methods, 4 repeats"));
    CHECK(contains(shown.out, "rosenbrock:dim=5"));
    CHECK(contains(shown.out, "about "));
    CHECK_FALSE(fs::exists(plan.folder / "plan.results.sqlite"));
  }

  TEST_CASE("a campaign that grew goes on with --extend, one that changed is refused") {
    const PlanFolder plan(small_plan);
    REQUIRE(plan.run("").code == 0);
    std::string text = small_plan;
    text.replace(text.find("repeats = 4"), 11, "repeats = 5");
    tanzen::write_file(plan.folder / "plan.toml", text);
    const auto refused = plan.run("");
    CHECK(refused.code == 2);
    CHECK(contains(refused.err, "the plan adds repeats 5 to 5"));
    CHECK(contains(plan.run("--extend").out, "6 runs in"));
    text.replace(text.find("2000"), 4, "3000");
    tanzen::write_file(plan.folder / "plan.toml", text);
    const auto changed = plan.run("--extend");
    CHECK(changed.code == 2);
    CHECK(contains(changed.err, "only the file says evaluations = 2000"));
    CHECK(contains(changed.err, "only the plan says evaluations = 3000"));
  }

  TEST_CASE("two processes of which one writes end with a message where the plan is wrong") {
    if (!fs::exists(TANZEN_MPI_PROGRAM)) return;
    const PlanFolder plan("problems = [\"spheer\"]\n[methods]\nbfgs = {}\n");
    const auto wrong =
        shell(fmt::format("ASAN_OPTIONS=detect_leaks=0 mpirun --allow-run-as-root --oversubscribe -n 2 {} plan.toml",
                          TANZEN_MPI_PROGRAM),
              plan.folder.path());
    CHECK(wrong.code != 0);
    CHECK(contains(wrong.err + wrong.out, "did you mean 'sphere'?"));
    const auto misspelt = shell(fmt::format("ASAN_OPTIONS=detect_leaks=0 {} plan.toml --worker 2", TANZEN_MPI_PROGRAM),
                                plan.folder.path());
    CHECK(misspelt.code == 2);
    CHECK(contains(misspelt.err,
                   "tanzen-mpi has no option '--worker'; did you mean '--workers'?\nSee 'tanzen-mpi --help'."));
  }
}

TEST_SUITE("compare command on results") {
  TEST_CASE("tables for the terminal, Markdown, a paper, and machines say the same") {
    const PlanFolder plan(small_plan);
    REQUIRE(plan.run("").code == 0);
    const auto compare = [&](const std::string& more) {
      return tanzen_line("tanzen compare plan.results.sqlite " + more, plan.folder.path());
    };
    const auto text = compare("");
    CHECK(contains(text.out, "Two valleys and a rugged bowl"));
    CHECK(contains(text.out, "rosenbrock:dim=5: gaps to the global best 0"));
    CHECK(contains(text.out, "all problems: 3 problems; Friedman's test p"));
    CHECK(contains(text.out, "cost = factor * n^exponent"));
    CHECK(contains(text.out, "robustness"));
    const auto markdown = compare("--as markdown");
    CHECK(contains(markdown.out, "| method | successes | 95 % interval |"));
    CHECK(contains(markdown.out, "| --- | ---: |"));
    const auto latex = compare("--as latex");
    CHECK(contains(latex.out, "\\begin{tabular}{lrrrrrrrrrr}"));
    CHECK(contains(latex.out, "\\%"));
    const auto csv = compare("--as csv");
    CHECK(contains(csv.out, "problem,gap,method,repeats,successes"));
    CHECK(contains(csv.out, "rosenbrock:dim=2,1e-07,bfgs,4,4,"));
    const auto json = compare("--json");
    CHECK(contains(json.out, R"("groups":[{"group":"all problems","problems":3)"));
    CHECK(contains(json.out, R"("sentences":[")"));
  }

  TEST_CASE("groups by trait and dimension, and only some of the problems") {
    const PlanFolder plan(small_plan);
    REQUIRE(plan.run("").code == 0);
    const auto compare = [&](const std::string& more) {
      return tanzen_line("tanzen compare plan.results.sqlite " + more, plan.folder.path());
    };
    CHECK(contains(compare("--by trait").out, "valley and ill-conditioned: 2 problems"));
    CHECK(contains(compare("--by dim").out, "dim=2: 2 problems"));
    const auto valleys = compare("--only valley --json");
    CHECK(contains(valleys.out, R"("group":"valley","problems":2)"));
    CHECK_FALSE(contains(valleys.out, "rastrigin"));
    CHECK(contains(compare("--by colour").err, "no problem has 'colour'; there is dim, family, trait"));
    CHECK(contains(compare("--only deep").err, "no problem is 'deep'"));
    CHECK(contains(compare("--gap 1e-12").err, "the smallest target of rosenbrock:dim=2 is a gap of 1e-07"));
    CHECK(contains(compare("--with bfgs").err, "has its own problems and methods"));
    CHECK(contains(compare("--as word").err, "--as must be one of text, markdown, latex, csv"));
    CHECK(compare("--gap 1e-2 --gradient-weight 0").code == 0);
  }

  TEST_CASE("a plan runs and compares without a file") {
    const PlanFolder plan(small_plan);
    const auto compared = tanzen_line("tanzen compare --plan plan.toml --json", plan.folder.path());
    CHECK(compared.code == 0);
    CHECK(contains(compared.out, R"("runs":24)"));
    CHECK(contains(tanzen_line("tanzen compare sphere --plan plan.toml", plan.folder.path()).err,
                   "--plan has its problems"));
  }
}
