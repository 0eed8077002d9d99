#include "tanzen/files/outcome_file.hpp"
#include "tanzen/files/write_file.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <filesystem>

using testing::contains;
using testing::example_file;
using testing::ProgramResult;
using testing::tanzen_line;
using testing::TemporaryFolder;

namespace {} // namespace

TEST_SUITE("all minima") {
  TEST_CASE("the table lists them best first, with their shares and what is known of them") {
    const TemporaryFolder folder;
    const ProgramResult result = tanzen_line(
        "tanzen solve six-hump-camel --with single-linkage --all-minima --quiet --figure m.png", folder.path());
    CHECK(result.code == 0);
    CHECK(contains(result.out, "share"));
    CHECK(contains(result.out, "-1.031628453"));
    CHECK(contains(result.out, "2.10425031"));
    CHECK(contains(result.out, "global"));
    CHECK(std::filesystem::file_size(folder / "m.png") > 10'000);
  }

  TEST_CASE("they are in the JSON too, and read back") {
    const TemporaryFolder folder;
    const ProgramResult result = tanzen_line("tanzen solve himmelblau --with multistart --json", folder.path());
    const auto read = tanzen::outcome_from_json(result.out);
    REQUIRE(read.outcome.minima.size() == 4);
    CHECK(std::ranges::is_sorted(read.outcome.minima, {}, &tanzen::FoundMinimum::value));
    for (const auto& minimum : read.outcome.minima) CHECK(minimum.times >= 1);
  }

  TEST_CASE("a method that does not look for them says which do") {
    const TemporaryFolder folder;
    const ProgramResult result = tanzen_line("tanzen solve himmelblau --with bfgs --all-minima --quiet", folder.path());
    CHECK(result.code == 0);
    CHECK(contains(result.out, "bfgs listed no local minima; single-linkage and multistart look for them"));
  }
}

TEST_SUITE("populations on the command line") {
  TEST_CASE("members are written a line each, and threads do not change them") {
    const TemporaryFolder folder;
    const char* line =
        "tanzen solve rastrigin --with differential-evolution --iterations 20 --seed 5 --quiet --population ";
    CHECK(tanzen_line(line + std::string("a.csv"), folder.path()).code <= 1);
    CHECK(tanzen_line(line + std::string("b.csv --jobs 2"), folder.path()).code <= 1);
    const std::string a = tanzen::read_file(folder / "a.csv");
    CHECK(a == tanzen::read_file(folder / "b.csv"));
    CHECK(a.starts_with("iteration,member,value,x1,x2\n1,1,"));
    CHECK(std::ranges::count(a, '\n') == 1 + 20 * 50);
  }

  TEST_CASE("a method without a population says so, and nothing is written") {
    const TemporaryFolder folder;
    const ProgramResult result =
        tanzen_line("tanzen solve sphere --with bfgs --population a.csv --quiet", folder.path());
    CHECK(result.code == 2);
    CHECK(contains(result.err, "bfgs has no population to write to a.csv"));
    CHECK_FALSE(std::filesystem::exists(folder / "a.csv"));
  }

  TEST_CASE("figures of populations, samples and ends are drawn") {
    const TemporaryFolder folder;
    for (const char* line :
         {"tanzen figure population rastrigin --with cma-es --output a.png",
          "tanzen figure population rastrigin --with particle-swarm --at 1,4 --output a.svg",
          "tanzen figure sample schwefel --output a.png",
          "tanzen figure sample line-two-sines --sampling sobol --output a.png",
          "tanzen figure sample rosenbrock:dim=5 --points 300 --sampling latin-hypercube --output a.png",
          "tanzen figure sample --formula \"log(x) + y\" --region -1:1 --output a.png",
          "tanzen figure ends eggholder --with nelder-mead --with cma-es --repeats 4 --evaluations 500 --output a.png",
          "tanzen figure ends rosenbrock:dim=4 --with bfgs --with powell --repeats 3 --output a.pdf"}) {
      CAPTURE(std::string(line));
      const ProgramResult result = tanzen_line(line, folder.path());
      CAPTURE(result.err);
      CHECK(result.code == 0);
      CHECK(contains(result.out, "figure        a."));
    }
    const ProgramResult none = tanzen_line("tanzen figure population sphere --with bfgs --output b.png", folder.path());
    CHECK(none.code == 2);
    CHECK(contains(none.err, "bfgs has no population"));
    const ProgramResult many = tanzen_line(
        "tanzen figure population sphere:dim=3 --with cma-es --evaluations 50 --output b.png", folder.path());
    CHECK(contains(many.err, "a population is drawn over two variables; sphere:dim=3 has 3"));
  }
}

TEST_SUITE("checking a method") {
  TEST_CASE("a line for each check, code 0 where all pass") {
    const TemporaryFolder folder;
    const ProgramResult result = tanzen_line("tanzen check method nelder-mead bfgs", folder.path());
    CHECK(result.code == 0);
    CHECK(contains(result.out, "passed          keeps within bounds"));
    CHECK(contains(result.out, "does not apply  keeps within bounds: its card says that it cannot"));
    CHECK(contains(result.out, "ends by itself on a constant function"));
    CHECK_FALSE(contains(result.out, "failed"));
  }

  TEST_CASE("a setting that keeps a method from ending is found") {
    const TemporaryFolder folder;
    const ProgramResult result = tanzen_line("tanzen check method nelder-mead:collapse=0", folder.path());
    CHECK(result.code <= 1);
  }
}

TEST_SUITE("programs as objectives on the command line") {
  TEST_CASE("a problem file names one, and it runs in the file's folder") {
    const TemporaryFolder folder;
    const ProgramResult result = tanzen_line(
        "tanzen solve " + example_file("firing-trial.toml") + " --with quadratic-model --quiet", folder.path());
    CAPTURE(result.err);
    CHECK(result.code == 0);
    CHECK(contains(result.out, "firing-trial, 2 variables, minimize"));
    CHECK_FALSE(contains(result.out, "broken"));
  }

  TEST_CASE("two copies and two threads come to the same") {
    const TemporaryFolder folder;
    const std::string line =
        "tanzen solve " + example_file("firing-trial.toml") + " --with differential-evolution --evaluations 150 --json";
    const auto alone = tanzen::outcome_from_json(tanzen_line(line, folder.path()).out);
    const auto together = tanzen::outcome_from_json(tanzen_line(line + " --jobs 2", folder.path()).out);
    CHECK(alone.outcome.point == together.outcome.point);
    CHECK(alone.outcome.counts[tanzen::Spent::evaluations] == 150);
    CHECK(alone.outcome.events.outside_domain > 0); // pots that crack have no value
  }

  TEST_CASE("a program that fails is told in the outcome, and on request ends the run with code 3") {
    const TemporaryFolder folder;
    const std::string line =
        "tanzen solve --program \"python3 " TANZEN_SOURCE
        "/tests/external/faulty_program.py error\" --variables x,y --from 3,2 --evaluations 60 --quiet";
    const ProgramResult goes_on = tanzen_line(line, folder.path());
    CHECK(goes_on.code == 1);
    CHECK(contains(goes_on.out, "broken"));
    CHECK(testing::says(goes_on.out, "it says: the shelf fell"));
    const ProgramResult stops = tanzen_line(line + " --stop-on-broken", folder.path());
    CHECK(stops.code == 3);
    CHECK(contains(stops.out, "the objective failed at"));
    const ProgramResult none = tanzen_line("tanzen solve --program no-such-program --variables x", folder.path());
    CHECK(none.code == 3);
    CHECK(contains(none.out, "cannot be started"));
  }

  TEST_CASE("a program's problem file is written back as it was read, and a wrong one is refused with its place") {
    const TemporaryFolder folder;
    CHECK(tanzen_line("tanzen problems " + example_file("firing-trial.toml") + " --write copy.toml", folder.path())
              .code == 0);
    const std::string copy = tanzen::read_file(folder / "copy.toml");
    CHECK(contains(copy, "firing_trial.py\"]"));
    CHECK(contains(copy, "copies = 2"));
    const auto refused = [&](const std::string& program, const char* says) {
      tanzen::write_file(folder / "wrong.toml", "[program]\n" + program + "\n[variables]\nx = {}\n");
      const ProgramResult result = tanzen_line("tanzen solve wrong.toml", folder.path());
      CAPTURE(result.err);
      CHECK(result.code == 2);
      CHECK(contains(result.err, says));
    };
    refused("timeout = 3", "[program] needs its command as a list");
    refused("command = [\"cat\"]\ntimeout = -1", "the timeout must be a number of seconds above 0");
    refused("command = [\"cat\"]\ncopies = 0", "the copies must be from 1 to 1000");
    refused("command = [\"cat\"]\nrestarts = 1.5", "restarts must be a whole number");
    refused("command = [\"cat\"]\ntimeuot = 3", "did you mean 'timeout'?");
    refused("command = [\"cat\"]\n[problem]\nminimize = \"x^2\"", "only one of them can be the objective");
  }
}
