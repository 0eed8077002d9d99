// Cells of a results file set to anything: read, or refused with a message.
#include "tanzen/base/errors.hpp"
#include "tanzen/comparison/comparison.hpp"
#include "tanzen/comparison/grouping.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/campaign.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <filesystem>
#include <fmt/format.h>
#include <sqlite3.h>

using namespace tanzen;
using testing::TemporaryFolder;

namespace {

struct Column {
  const char *table, *column;
};

const std::vector<Column> columns = {
    {"campaign", "value"},   {"problems", "label"},  {"problems", "dimension"}, {"problems", "sense"},
    {"problems", "best"},    {"problems", "traits"}, {"problems", "variables"}, {"problems", "identity"},
    {"problems", "place"},   {"methods", "label"},   {"methods", "place"},      {"methods", "version"},
    {"targets", "gap"},      {"targets", "target"},  {"runs", "problem"},       {"runs", "repeat"},
    {"runs", "method"},      {"runs", "status"},     {"runs", "value"},         {"runs", "violation"},
    {"runs", "evaluations"}, {"runs", "iterations"}, {"runs", "seconds"},       {"runs", "point"},
    {"runs", "hits"},        {"runs", "trace"},      {"runs", "front"},         {"runs", "feasible"},
    {"runs", "converged"},   {"runs", "message"}};

/// A value of SQL: a number, a text, nothing, or what a cell of another kind would hold.
std::string any_value() {
  return *rc::gen::oneOf(
      rc::gen::map(rc::gen::arbitrary<std::int64_t>(), [](std::int64_t number) { return std::to_string(number); }),
      rc::gen::map(rc::gen::inRange(-3, 4), [](int number) { return std::to_string(number); }),
      rc::gen::just(std::string("NULL")), rc::gen::just(std::string("1e308 * 10")),
      rc::gen::just(std::string("x'00ff10'")),
      rc::gen::element<std::string>("'[]'", "'[[1,2,3]]'", "'[1,2'", "'{}'", "'\"a\"'", "'target'",
                                    "'iteration' || char(10) || '1'", "'a' || char(10) || 'b'", "''", "'nan'",
                                    "'seed = 1'", "'[[[[[[1]]]]]]'"));
}

} // namespace

TEST_SUITE("any damage of results") {
  TEST_CASE("whatever cells are set to, and whichever rows are gone, nothing is believed that cannot be") {
    const TemporaryFolder folder;
    const auto original = folder / "original.sqlite", changed = folder / "changed.sqlite";
    const PlanDefinition plan{.repeats = 2,
                              .problems = {"sphere:dim=2", "booth"},
                              .methods = {{"simplex", "nelder-mead"}, {"bfgs", "bfgs"}},
                              .stop = {.evaluations = 80}};
    (void)run_campaign(Campaign(plan, {}), {.file = original, .workers = 1});
    int read = 0, refused = 0;
    rc::check("damage is refused or harmless", [&] {
      std::filesystem::copy_file(original, changed, std::filesystem::copy_options::overwrite_existing);
      sqlite3* database = nullptr;
      RC_ASSERT(sqlite3_open(changed.c_str(), &database) == SQLITE_OK);
      sqlite3_exec(database, "PRAGMA foreign_keys = OFF", nullptr, nullptr, nullptr);
      for (int k = *rc::gen::inRange(1, 4); k > 0; --k) {
        const Column cell = *rc::gen::elementOf(columns);
        const std::string row = *rc::gen::inRange(0, 3) > 0
                                    ? fmt::format(" WHERE {} IN (SELECT {} FROM {} LIMIT 1 OFFSET {})", cell.column,
                                                  cell.column, cell.table, *rc::gen::inRange(0, 4))
                                    : std::string();
        const std::string sql = *rc::gen::inRange(0, 6) == 0 ? fmt::format("DELETE FROM {}{}", cell.table, row)
                                                             : fmt::format("UPDATE OR IGNORE {} SET {} = {}{}",
                                                                           cell.table, cell.column, any_value(), row);
        sqlite3_exec(database, sql.c_str(), nullptr, nullptr, nullptr);
      }
      sqlite3_close(database);
      try {
        const ResultsFile file = ResultsFile::reading(changed);
        const Results results = file.load(true);
        const auto comparisons = compare(results);
        for (const ProblemGroup& group : group_problems(results)) (void)compare_over(comparisons, results, group);
        export_results(file, folder / "tables");
        ++read;
      } catch (const FileError& error) {
        RC_ASSERT(std::string(error.what()).find("changed.sqlite") != std::string::npos);
        ++refused;
      } catch (const InputError& error) {
        RC_ASSERT(!std::string(error.what()).empty());
        ++refused;
      }
    });
    CHECK(read > 0);
    CHECK(refused > 0);
  }
}
