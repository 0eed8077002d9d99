// Signals, closed streams and missing folders lose nothing and leave nothing behind.
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"
#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <chrono>
#include <csignal>
#include <filesystem>
#include <fmt/format.h>
#include <random>
#include <thread>

using namespace testing;
namespace fs = std::filesystem;

namespace {

void sleep_for(int milliseconds) {
  std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds));
}

std::vector<std::string> names_in(const fs::path& folder) {
  std::vector<std::string> names;
  for (const auto& entry : fs::directory_iterator(folder)) names.push_back(entry.path().filename().string());
  std::ranges::sort(names);
  return names;
}

/// A program that answers slowly, has a child of its own, and can be found by its name among all processes.
std::string slow_program(const fs::path& folder, const std::string& mark, double seconds) {
  tanzen::write_file(
      folder / (mark + ".py"),
      "import sys, json, subprocess, time\n"
      "subprocess.Popen([sys.executable, '-c', 'import time; time.sleep(1000)', '" +
          mark +
          "-child'])\n"
          "for line in sys.stdin:\n"
          "    r = json.loads(line)\n"
          "    time.sleep(" +
          fmt::format("{}", seconds) +
          ")\n"
          "    print(json.dumps({'id': r['id'], 'value': sum(x * x for x in r['point'])}), flush=True)\n");
  return "python3 " + mark + ".py";
}

bool all_gone(const std::string& mark) {
  for (int k = 0; k < 300; ++k) {
    if (processes_with(mark) == 0) return true;
    sleep_for(10);
  }
  return false;
}

/// A file is the old one or a whole new one.
bool is_old_or_whole(const fs::path& path, const std::string& old, std::string_view end) {
  if (!fs::exists(path)) return old.empty();
  const std::string content = tanzen::read_file(path);
  return content == old || content.ends_with(end) ||
         content.substr(0, content.find_last_not_of(" \n") + 1).ends_with(end);
}

} // namespace

TEST_SUITE("bad luck") {
  TEST_CASE("programs end with the run, whatever ends it, and so do their children") {
    const TemporaryFolder folder;
    int number = 0;
    for (const int signal : {SIGTERM, SIGINT, SIGHUP, SIGKILL}) {
      const std::string mark = fmt::format("tanzen-slow-{}-{}", getpid(), ++number);
      const std::string command = slow_program(folder.path(), mark, 0.05);
      RunningProgram run(TANZEN_PROGRAM, {"solve", "--program", command, "--variables", "x,y", "--from", "1,1"},
                         folder.path());
      for (int k = 0; k < 500 && processes_with(mark + "-child") == 0; ++k) sleep_for(10);
      CHECK(processes_with(mark + "-child") > 0);
      run.send(signal);
      (void)run.wait();
      CAPTURE(signal);
      CHECK(all_gone(mark));
      fs::remove(folder / (mark + ".py"));
    }
    CHECK(fs::is_empty(folder.path()));
  }

  TEST_CASE("a first Ctrl-C, TERM or HUP does not wait for a program that hangs, and keeps what there is") {
    const TemporaryFolder folder;
    for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
      const std::string mark = fmt::format("tanzen-hung-{}-{}", getpid(), signal);
      const std::string command = slow_program(folder.path(), mark, 500);
      const auto began = std::chrono::steady_clock::now();
      RunningProgram run(TANZEN_PROGRAM,
                         {"solve", "--program", command, "--variables", "x,y", "--from", "1,1", "--trace", "t.csv"},
                         folder.path());
      for (int k = 0; k < 500 && processes_with(mark + "-child") == 0; ++k) sleep_for(10);
      run.send(signal);
      CHECK(run.wait() == 130);
      CHECK(std::chrono::steady_clock::now() - began < std::chrono::seconds(60)); // the program's own timeout is longer
      CHECK(all_gone(mark));
      CHECK(fs::exists(folder / "t.csv"));
      fs::remove(folder / "t.csv");
    }
  }

  TEST_CASE("a limit of time holds while a program thinks") {
    const TemporaryFolder folder;
    const std::string mark = fmt::format("tanzen-thinks-{}", getpid());
    const std::string command = slow_program(folder.path(), mark, 500);
    const ProgramResult result = testing::tanzen(
        {"solve", "--program", command, "--variables", "x", "--from", "1", "--seconds", "0.5"}, folder.path());
    CHECK(result.code == 1);
    CHECK(contains(result.out, "the limit of 0.5 s is reached"));
    CHECK(all_gone(mark));
  }

  TEST_CASE("killed at any moment, runs, figures and exports leave the old file or the new one, and nothing else") {
    // The marks of kill after kill lie on one moment after the other.
    const TemporaryFolder folder, tools;
    tanzen::write_file(folder / "plan.toml",
                       "repeats = 3\nproblems = [\"booth\", \"rosenbrock\"]\n[methods]\nbfgs = {}\nnelder-mead = {}\n");
    REQUIRE(tanzen_line("tanzen campaign plan.toml --quiet", folder.path()).code == 0);
    struct Work {
      std::vector<std::string> words, targets;
      std::string_view end;
    };
    const std::string mark = fmt::format("tanzen-quick-{}", getpid());
    const std::string command = slow_program(folder.path(), mark, 0.002);
    // A gnuplot that can be told from those of other tests.
    tanzen::write_file(tools / "gnuplot", "#!/bin/sh\nexec /usr/bin/gnuplot -e \"mark='" + mark + "'\" -\n");
    fs::permissions(tools / "gnuplot", fs::perms::owner_all);
    const std::vector<Work> works = {
        {{"solve", "rosenbrock", "--with", "nelder-mead", "--quiet", "--trace", "t.csv"}, {"t.csv"}, "\n"},
        {{"figure", "landscape", "himmelblau", "--output", "f.svg"}, {"f.svg"}, "</svg>"},
        {{"figure", "ranks", "plan.results.sqlite", "--output", "f.png"}, {"f.png"}, "IEND\xae\x42\x60\x82"},
        {{"campaign", "export", "plan.results.sqlite"}, {"runs.csv", "hits.csv", "traces.csv"}, "\n"},
        {{"report", "plan.results.sqlite", "--output", "r.html"}, {"r.html"}, "</html>"},
        {{"solve", "--program", command, "--variables", "x,y", "--from", "1,1", "--quiet", "--trace", "p.csv"},
         {"p.csv"},
         "\n"}};
    const std::vector<std::string> before = names_in(folder.path());
    std::mt19937 random(7);
    const int kills = testing::is_sanitized ? 20 : 100;
    for (int k = 0; k < kills; ++k) {
      const Work& work = works[static_cast<std::size_t>(k) % works.size()];
      const int signal = std::array{SIGTERM, SIGINT, SIGHUP, SIGKILL}[static_cast<std::size_t>(k) / works.size() % 4];
      const bool has_old = random() % 2 == 0;
      for (const std::string& target : work.targets) {
        if (has_old) tanzen::write_file(folder / target, "old");
      }
      {
        std::vector<std::string> words{fmt::format("PATH={}:/usr/bin:/bin", tools.path().string()), TANZEN_PROGRAM};
        words.insert(words.end(), work.words.begin(), work.words.end());
        RunningProgram run("/usr/bin/env", words, folder.path());
        sleep_for(static_cast<int>(random() % 250));
        run.send(signal);
        (void)run.wait();
      }
      CAPTURE(work.words.front());
      CAPTURE(signal);
      for (const std::string& target : work.targets) {
        CHECK(is_old_or_whole(folder / target, has_old ? "old" : "", work.end));
        fs::remove(folder / target);
      }
      CHECK(names_in(folder.path()) == before);
    }
    CHECK(all_gone(mark)); // of the programs, and of gnuplot
  }

  TEST_CASE("closed streams are no files") {
    const TemporaryFolder folder;
    tanzen::write_file(folder / "plan.toml",
                       "repeats = 20\nproblems = [\"booth\"]\n[methods]\nbfgs = {}\nnelder-mead = {}\n");
    for (const char* closed : {">&-", "2>&-", "<&-", ">&- 2>&- <&-"}) {
      fs::remove(folder / "plan.results.sqlite");
      CAPTURE(closed);
      (void)shell(fmt::format("{} campaign plan.toml {}", TANZEN_PROGRAM, closed), folder.path());
      const ProgramResult compared = tanzen_line("tanzen compare plan.results.sqlite", folder.path());
      CHECK(compared.code == 0);
      CHECK(contains(compared.out, "20/20"));
    }
  }

  TEST_CASE("an error that cannot be written is still an error, by its code") {
    CHECK(shell(fmt::format("{} solve no-such-problem 2>&-", TANZEN_PROGRAM)).code == 2);
    CHECK(shell(fmt::format("{} solve no-such-problem 2> /dev/full", TANZEN_PROGRAM)).code == 2);
    const ProgramResult full = shell(fmt::format("{} methods > /dev/full", TANZEN_PROGRAM));
    CHECK(full.code == 3);
    CHECK(contains(full.err, "the output could not be written: No space left on device"));
  }

  TEST_CASE("where a result cannot go is told before the run, and two results do not go to one file") {
    const TemporaryFolder folder;
    struct Row {
      const char *line, *says;
      int code;
    };
    for (const Row& row :
         {Row{"tanzen solve rosenbrock --figure nodir/x.png --trace t.csv", "there is no folder nodir", 3},
          Row{"tanzen solve rosenbrock --trace nodir/t.csv", "there is no folder nodir", 3},
          Row{"tanzen solve rosenbrock --report nodir/t.html", "there is no folder nodir", 3},
          Row{"tanzen sweep rosenbrock --with nadam --vary step=0.1,0.2 --figure nodir/x.png", "there is no folder", 3},
          Row{"tanzen stationary himmelblau --figure nodir/x.png", "there is no folder", 3},
          Row{"tanzen figure landscape booth --output nodir/x.png", "there is no folder", 3},
          Row{"tanzen sample booth --write nodir/x.csv", "there is no folder", 3},
          Row{"tanzen compare booth --with bfgs --with dfp --repeats 2 --report nodir/x.html", "there is no folder", 3},
          Row{"tanzen solve rosenbrock --with cma-es --trace a.csv --population a.csv",
              "--trace and --population both write to a.csv", 2},
          Row{"tanzen solve rosenbrock --trace a.csv --population ./a.csv", "both write to", 2}}) {
      CAPTURE(row.line);
      const ProgramResult result = tanzen_line(row.line, folder.path());
      CHECK(result.code == row.code);
      CHECK(contains(result.err, row.says));
      CHECK(result.out.empty()); // nothing was run
      CHECK(fs::is_empty(folder.path()));
    }
  }

  TEST_CASE("data are there when the picture fails") {
    const TemporaryFolder folder, tools;
    tanzen::write_file(tools / "gnuplot", "#!/bin/sh\necho broken >&2\nexit 7\n");
    fs::permissions(tools / "gnuplot", fs::perms::owner_all);
    const ProgramResult result =
        shell(fmt::format("PATH={}:/usr/bin:/bin {} solve rosenbrock --quiet --trace t.csv --figure f.png",
                          tools.path().string(), TANZEN_PROGRAM),
              folder.path());
    CHECK(result.code == 3);
    CHECK(contains(result.err, "cannot draw f.png: gnuplot ended with code 7: broken"));
    CHECK(names_in(folder.path()) == std::vector<std::string>{"t.csv"});
  }

  TEST_CASE("a picture that is cut off does not take the place of a good one") {
    const TemporaryFolder folder, tools;
    tanzen::write_file(folder / "f.png", "the good one");
    tanzen::write_file(tools / "gnuplot", "#!/bin/sh\n/usr/bin/gnuplot | head -c 3000\nexit 0\n");
    fs::permissions(tools / "gnuplot", fs::perms::owner_all);
    for (const char* name : {"f.png", "f.svg", "f.pdf"}) {
      tanzen::write_file(folder / name, "the good one");
      const ProgramResult result = shell(fmt::format("PATH={}:/usr/bin:/bin {} figure landscape booth --output {}",
                                                     tools.path().string(), TANZEN_PROGRAM, name),
                                         folder.path());
      CAPTURE(name);
      CHECK(result.code == 3);
      CHECK(contains(result.err, "ends before its end"));
      CHECK(tanzen::read_file(folder / name) == "the good one");
    }
  }

  TEST_CASE("a campaign under nohup is not stopped by a hangup") {
    const TemporaryFolder folder;
    const ProgramResult result = shell(
        fmt::format(
            "trap '' HUP; {} solve rosenbrock:dim=20 --with gradient-descent --evaluations 3000000 --quiet > out.txt & "
            "sleep 0.3; kill -HUP $!; wait $!; echo code $?",
            TANZEN_PROGRAM),
        folder.path());
    CHECK(contains(result.out, "code 1"));
    CHECK_FALSE(contains(tanzen::read_file(folder / "out.txt"), "interrupted"));
  }
}
