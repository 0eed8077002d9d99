// A results file of unknown origin is checked before anything counts on it.
#include "tanzen/base/errors.hpp"
#include "tanzen/comparison/comparison.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/campaign.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <fmt/format.h>
#include <sqlite3.h>

using namespace tanzen;
using testing::TemporaryFolder;

namespace {

/// A small campaign's file, to be damaged.
struct Damaged {
  TemporaryFolder folder;
  std::filesystem::path path = folder / "a.sqlite";

  Damaged() {
    const PlanDefinition plan{.repeats = 3,
                              .problems = {"sphere:dim=2", "booth"},
                              .methods = {{"simplex", "nelder-mead"}, {"bfgs", "bfgs"}},
                              .stop = {.evaluations = 150}};
    (void)run_campaign(Campaign(plan, {}), {.file = path, .workers = 1});
  }

  void change(const std::string& sql) const {
    sqlite3* database = nullptr;
    REQUIRE(sqlite3_open(path.c_str(), &database) == SQLITE_OK);
    char* message = nullptr;
    const int code = sqlite3_exec(database, ("PRAGMA foreign_keys = OFF;" + sql).c_str(), nullptr, nullptr, &message);
    CAPTURE((message == nullptr ? "" : message));
    CHECK(code == SQLITE_OK);
    sqlite3_free(message);
    sqlite3_close(database);
  }

  /// What reading, comparing and exporting say; empty where nothing is wrong.
  [[nodiscard]] std::string complaint() const {
    try {
      const ResultsFile file = ResultsFile::reading(path);
      (void)compare(file.load(true));
      export_results(file, folder / "tables");
      return "";
    } catch (const FileError& error) {
      return error.what();
    }
  }
};

} // namespace

TEST_SUITE("damaged results") {
  TEST_CASE("a sound file is read") {
    CHECK(Damaged().complaint().empty());
  }

  TEST_CASE("each damage is an error that names the file and the place") {
    struct Row {
      const char *sql, *says;
    };
    for (const Row& row : {
             Row{"UPDATE runs SET repeat = -1 WHERE run = 1", "repeat -1"},
             Row{"UPDATE runs SET repeat = 0 WHERE run = 1", "repeat 0"},
             Row{"UPDATE runs SET repeat = 7 WHERE run = 1", "repeat 7"},
             Row{"UPDATE runs SET repeat = 1000000 WHERE run = 1", "repeat 1000000"},
             Row{"UPDATE runs SET problem = 99 WHERE run = 1", "problem 99"},
             Row{"UPDATE runs SET method = -3 WHERE run = 1", "method -3"},
             Row{"DELETE FROM targets", "has no targets"},
             Row{"UPDATE problems SET best = NULL", "no best value that they are for"},
             Row{"UPDATE targets SET gap = -1", "do not fall"},
             Row{"UPDATE targets SET gap = 1", "do not fall"},
             Row{"DELETE FROM methods", "it has no method"},
             Row{"DELETE FROM problems", "it has no problem"},
             Row{"DELETE FROM campaign", "it has no plan"},
             Row{"UPDATE campaign SET value = 'zzz'", "what it says of its campaign is damaged"},
             Row{"UPDATE runs SET hits = (SELECT '[' || group_concat('[1,1,1]') || ']' FROM runs, targets)",
                 "it reached"},
             Row{"UPDATE runs SET hits = 'zz'", "no list of lists of counts"},
             Row{"UPDATE runs SET hits = '[[1,2]]'", "no list of lists of counts"},
             Row{"UPDATE runs SET hits = '[[-1,2,3]]'", "is no count"},
             Row{"UPDATE runs SET hits = '[[1,2,3]'", "no list of lists of counts"},
             Row{"UPDATE runs SET trace = 'a,b,c'", "expected a column 'iteration'"},
             Row{"UPDATE runs SET trace = 'iteration,evaluations' || char(10) || '1,x'", "is no number"},
             Row{"UPDATE runs SET point = '{}'", "the point is no list"},
             Row{"UPDATE runs SET point = '[1,2,3]'", "its point has 3 coordinates"},
             Row{"UPDATE runs SET point = '[1,'", "is damaged"},
             Row{"UPDATE runs SET front = '[[1,2],[3]]'", "different lengths"},
             Row{"UPDATE runs SET front = '[[1,2]]'", "its front"},
             Row{"UPDATE runs SET status = 'zzz'", "'zzz' is no status"},
             Row{"UPDATE runs SET evaluations = -5", "a count is -5"},
             Row{"UPDATE runs SET evaluations = 'many'", "a text where a whole number should be"},
             Row{"UPDATE runs SET iterations = 2.5", "a fraction where a whole number should be"},
             Row{"UPDATE runs SET value = 'inf'", "a text where a number should be"},
             Row{"UPDATE problems SET variables = 'nonsense'", "what it says of its campaign is damaged"},
             Row{"UPDATE problems SET variables = '[\"x\"]'", "2 variables and 1 names"},
             Row{"UPDATE problems SET dimension = -5", "-5 variables"},
             Row{"UPDATE problems SET identity = '[[1]]'", "what it says of its campaign is damaged"},
             Row{"UPDATE problems SET label = 'a' || char(10) || 'b' WHERE problem = 1", "control character U+000A"},
             Row{"UPDATE methods SET label = '' WHERE method = 1", "has no name"},
             Row{"UPDATE methods SET label = 'nm' || char(10) || 'EOD' WHERE method = 1", "control character U+000A"},
             Row{"UPDATE campaign SET value = replace(value, 'repeats = 3', 'repeats = 1000000000')", "damaged"},
         }) {
      CAPTURE(row.sql);
      const Damaged file;
      file.change(row.sql);
      const std::string complaint = file.complaint();
      CHECK(testing::contains(complaint, "a.sqlite: "));
      CHECK(testing::contains(complaint, row.says));
    }
  }

  TEST_CASE("the program says the same, with exit code 3, and leaves the file as it was") {
    const Damaged file;
    file.change("UPDATE runs SET status = 'zzz' WHERE run = 2");
    for (const char* line : {"tanzen compare a.sqlite", "tanzen campaign export a.sqlite", "tanzen report a.sqlite"}) {
      const auto result = testing::tanzen_line(line, file.folder.path());
      CAPTURE(line);
      CHECK(result.code == 3);
      CHECK(testing::contains(result.err,
                              "the run of sphere:dim=2, repeat 1, by method 2 is damaged: 'zzz' is no status"));
    }
  }

  TEST_CASE("a file that is taken away while runs are written to it is missed") {
    const TemporaryFolder folder;
    const PlanDefinition plan{.repeats = 2, .problems = {"booth"}, .methods = {{"bfgs", "bfgs"}}};
    const Campaign campaign(plan, {});
    ResultsFile file = ResultsFile::for_campaign(folder / "a.sqlite", campaign, ResultsFile::IfChanged::refuse);
    file.add(campaign.perform({0, 1, 0}));
    CHECK_NOTHROW(file.check_in_place());
    std::filesystem::remove(folder / "a.sqlite");
    CHECK_THROWS_WITH_AS(file.check_in_place(), doctest::Contains("was removed or replaced"), FileError);
  }

  TEST_CASE("names that mean something to SQLite are plain names") {
    const TemporaryFolder folder;
    const PlanDefinition plan{.repeats = 1, .problems = {"booth"}, .methods = {{"bfgs", "bfgs"}}};
    const Campaign campaign(plan, {});
    const auto before = std::filesystem::current_path();
    std::filesystem::current_path(folder.path());
    {
      ResultsFile file = ResultsFile::for_campaign(":memory:", campaign, ResultsFile::IfChanged::refuse);
      file.add(campaign.perform({0, 1, 0}));
    }
    CHECK(std::filesystem::exists(":memory:"));
    CHECK(ResultsFile::reading(":memory:").done().size() == 1);
    std::filesystem::current_path(before);
  }

  TEST_CASE("a program's campaign goes on from its file, and can be stopped") {
    const TemporaryFolder folder;
    const PlanDefinition plan{.repeats = 4, .problems = {"booth"}, .methods = {{"bfgs", "bfgs"}, {"dfp", "dfp"}}};
    const Campaign campaign(plan, {});
    int asked = 0;
    const Results part = run_campaign(
        campaign, {.file = folder / "a.sqlite", .workers = 1, .asked_to_stop = [&] { return ++asked > 12; }});
    CHECK(part.done() < part.planned());
    const std::size_t before = part.done();
    std::size_t counted = 0;
    const Results all = run_campaign(
        campaign, {.file = folder / "a.sqlite", .workers = 2, .counter = [&](std::size_t, std::size_t) { ++counted; }});
    CHECK(all.done() == all.planned());
    CHECK(counted == all.planned() - before); // what was there is not done again
    CHECK(ResultsFile::reading(folder / "a.sqlite").done().size() == 8);
  }
}
