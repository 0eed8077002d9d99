#include "tanzen/base/errors.hpp"
#include "tanzen/comparison/comparison.hpp"
#include "tanzen/files/named_problem.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/work.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/program.hpp"
#include "support/traces.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>

using namespace tanzen;
namespace fs = std::filesystem;

namespace {

PlanDefinition small_plan() {
  PlanDefinition plan{.title = "two valleys", .problems = {"rosenbrock:dim=2,3"}};
  plan.methods = {{"bfgs", "bfgs"}, {"simplex", "nelder-mead", {{"size", "0.5"}}}};
  plan.repeats = 3;
  plan.stop = {.evaluations = 300};
  return plan;
}

Campaign campaign_of(const PlanDefinition& plan) {
  return Campaign(plan, PlanNames{});
}

/// Does what is missing in the file.
void fill(ResultsFile& file, const Campaign& campaign, const CampaignPart& part = {}) {
  for (const std::size_t k : missing_runs(campaign, file.done(), part))
    CHECK(file.add(campaign.perform(campaign.key(k))));
}

void fill(const fs::path& path, const Campaign& campaign, const CampaignPart& part = {}) {
  ResultsFile file = ResultsFile::for_campaign(path, campaign);
  fill(file, campaign, part);
}

/// All tables as one text, without the times.
std::string tables_of(const fs::path& results) {
  const testing::TemporaryFolder folder;
  export_results(ResultsFile::reading(results), folder.path());
  std::string runs = read_file(folder / "runs.csv"), timeless;
  for (std::size_t begin = 0; begin < runs.size();) {
    const std::size_t end = runs.find('\n', begin);
    const std::string line = runs.substr(begin, end - begin);
    timeless += line.substr(0, line.rfind(',')) + "\n";
    begin = end + 1;
  }
  return timeless + read_file(folder / "hits.csv") + read_file(folder / "traces.csv");
}

template <class Call>
void check_message(Call&& call, const char* says) {
  CHECK_THROWS_WITH_AS(call(), doctest::Contains(says), FileError);
}

} // namespace

TEST_SUITE("results file") {
  TEST_CASE("what is read is what was added") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    fill(folder / "a.sqlite", campaign);
    const ResultsFile file = ResultsFile::reading(folder / "a.sqlite");
    CHECK(file.done().size() == campaign.size());
    std::size_t k = 0;
    file.for_each([&](const RunRecord& read) {
      const RunRecord done = campaign.perform(campaign.key(k++));
      CHECK(read.key == done.key);
      CHECK(read.status == done.status);
      CHECK(read.message == done.message);
      CHECK(read.value == done.value);
      CHECK(read.point == done.point);
      CHECK(read.counts[Spent::gradients] == done.counts[Spent::gradients]);
      CHECK(read.evaluations_to_best == done.evaluations_to_best);
      CHECK(testing::same_trace(read.trace, done.trace));
      CHECK(read.converged == done.converged);
      REQUIRE(read.hits.size() == done.hits.size());
      if (!read.hits.empty()) CHECK(read.hits.back()[Spent::evaluations] == done.hits.back()[Spent::evaluations]);
    });
    CHECK(k == campaign.size());
    CHECK(plan_to_toml(file.plan()) == plan_to_toml(campaign.plan()));
    CHECK(file.head().problems[1].label == "rosenbrock:dim=3");
    CHECK(file.head().problems[1].gaps == campaign.problems()[1].gaps);
  }

  TEST_CASE("a comparison from the file is the comparison of the same runs here") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    fill(folder / "a.sqlite", campaign);
    const auto from_file = compare(ResultsFile::reading(folder / "a.sqlite").load());
    const auto here = compare(run_campaign(campaign, {.workers = 1}));
    REQUIRE(from_file.size() == here.size());
    for (std::size_t p = 0; p < here.size(); ++p) {
      CHECK(from_file[p].keys == here[p].keys);
      CHECK(from_file[p].rows[0].median_gap == here[p].rows[0].median_gap);
      CHECK(from_file[p].rows[1].anytime == here[p].rows[1].anytime);
    }
  }

  TEST_CASE("a gradient can be charged otherwise when the file is read") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    fill(folder / "a.sqlite", campaign);
    const RunRecord record = campaign.perform({0, 1, 0});
    const ResultsFile file = ResultsFile::reading(folder / "a.sqlite");
    const auto evaluations = static_cast<double>(record.counts[Spent::evaluations]),
               gradients = static_cast<double>(record.counts[Spent::gradients]);
    CHECK(file.load().run({0, 1, 0}).cost == evaluations + gradients);
    CHECK(file.load(false, 0.0).run({0, 1, 0}).cost == evaluations);
    CHECK(file.load(false, 3.0).run({0, 1, 0}).cost == evaluations + 3 * gradients);
  }

  TEST_CASE("a run that is there already is left alone") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    ResultsFile file = ResultsFile::for_campaign(folder / "a.sqlite", campaign);
    RunRecord record = campaign.perform({0, 1, 0});
    CHECK(file.add(record));
    record.value = 99;
    CHECK_FALSE(file.add(record));
    file.for_each([](const RunRecord& read) { CHECK(read.value != 99); });
    CHECK(file.done().size() == 1);
  }

  TEST_CASE("parts merged are the whole, byte for byte, and merging again adds nothing") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    fill(folder / "whole.sqlite", campaign);
    std::vector<fs::path> parts;
    for (const std::size_t k : {1U, 2U, 3U}) {
      parts.push_back(folder / ("part" + std::to_string(k) + ".sqlite"));
      fill(parts.back(), campaign, {k, 3});
    }
    CHECK(merge_results(folder / "merged.sqlite", {parts[2], parts[0]}) == 8);
    CHECK(merge_results(folder / "merged.sqlite", parts) == 4);
    CHECK(merge_results(folder / "merged.sqlite", parts) == 0);
    CHECK(tables_of(folder / "merged.sqlite") == tables_of(folder / "whole.sqlite"));
    CHECK(CampaignPart::parse("2/3").number == 2);
    for (const char* wrong : {"", "2", "0/3", "4/3", "1.5/3", "a/b", "1/2/3"})
      CHECK_THROWS_AS((void)CampaignPart::parse(wrong), InputError);
  }

  TEST_CASE("parts of different campaigns are not put together") {
    const testing::TemporaryFolder folder;
    fill(folder / "a.sqlite", campaign_of(small_plan()));
    PlanDefinition other = small_plan();
    other.seed = 2;
    fill(folder / "b.sqlite", campaign_of(other));
    CHECK_THROWS_WITH_AS((void)merge_results(folder / "m.sqlite", {folder / "a.sqlite", folder / "b.sqlite"}),
                         doctest::Contains("only the plan says seed = 2"), InputError);
    CHECK_FALSE(fs::exists(folder / "m.sqlite"));
  }

  TEST_CASE("a plan that changed is refused with what differs; what it only added is taken over when asked") {
    const testing::TemporaryFolder folder;
    const fs::path path = folder / "a.sqlite";
    fill(path, campaign_of(small_plan()));
    const auto refused = [&](const PlanDefinition& plan, const char* says, ResultsFile::IfChanged if_changed) {
      CHECK_THROWS_WITH_AS((void)ResultsFile::for_campaign(path, campaign_of(plan), if_changed),
                           doctest::Contains(says), InputError);
    };
    constexpr auto extend = ResultsFile::IfChanged::extend;
    PlanDefinition plan = small_plan();
    plan.methods[1].settings = {{"size", "0.7"}};
    refused(plan, "the method simplex differs in its settings", extend);
    plan = small_plan();
    plan.stop.evaluations = 400;
    refused(plan, "only the file says evaluations = 300", extend);
    plan = small_plan();
    plan.problems = {"rosenbrock:dim=2"};
    refused(plan, "only the file has the problem rosenbrock:dim=3", extend);
    plan = small_plan();
    plan.repeats = 2;
    refused(plan, "the file has 3 repeats, the plan 2", extend);
    plan = small_plan();
    plan.smallest_gap = 1e-6;
    refused(plan, "differs in its targets", extend);

    PlanDefinition longer = small_plan();
    longer.repeats = 4;
    longer.problems = {"sphere", "rosenbrock:dim=2,3"};
    longer.methods.insert(longer.methods.begin(), {"swarm", "particle-swarm"});
    refused(longer, "the plan adds the problem sphere", ResultsFile::IfChanged::refuse);
    refused(longer, "--extend takes over what was added", ResultsFile::IfChanged::refuse);
    const Campaign extended = campaign_of(longer);
    {
      ResultsFile file = ResultsFile::for_campaign(path, extended, extend);
      CHECK(file.done().size() == 12);
      fill(file, extended);
    }
    fill(folder / "b.sqlite", extended);
    CHECK(tables_of(path) == tables_of(folder / "b.sqlite"));
  }

  TEST_CASE("a problem file that changed makes another campaign") {
    const testing::TemporaryFolder folder;
    const auto campaign_with = [&](const char* factor) {
      write_file(
          folder / "kiln.toml",
          fmt::format("[problem]\nminimize = \"{}*(x - 1)^2\"\n[variables]\nx = {{ lower = 0, upper = 3 }}\n", factor));
      PlanDefinition plan{.problems = {"kiln.toml"}, .methods = {{"simplex", "nelder-mead"}}};
      plan.best = {{"kiln.toml", 0}};
      return Campaign(plan, {.problem = [&](const std::string& name) { return named_problem(name, folder.path()); }});
    };
    fill(folder / "a.sqlite", campaign_with("2"));
    CHECK_THROWS_WITH_AS((void)ResultsFile::for_campaign(folder / "a.sqlite", campaign_with("3")),
                         doctest::Contains("the problem kiln.toml differs in its objective"), InputError);
  }

  TEST_CASE("what cannot be opened says why, and nothing is changed or left behind") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    const auto open = [&](const fs::path& path) { (void)ResultsFile::for_campaign(path, campaign); };
    check_message([&] { open(folder / "no" / "a.sqlite"); }, "No such file or directory");
    check_message([&] { open(folder.path()); }, "Is a directory");
    check_message([&] { (void)ResultsFile::reading(folder / "none.sqlite"); }, "there is no such file");
    write_file(folder / "text.sqlite", "this is a text about kilns, long enough to be taken for something else");
    const std::string before = read_file(folder / "text.sqlite");
    check_message([&] { open(folder / "text.sqlite"); }, "it is no results file");
    check_message([&] { (void)ResultsFile::reading(folder / "text.sqlite"); }, "it is no results file");
    CHECK(read_file(folder / "text.sqlite") == before);
  }

  TEST_CASE("a file of another version is refused by its number") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    fill(folder / "a.sqlite", campaign);
    std::string content = read_file(folder / "a.sqlite");
    content[63] = 3; // the last byte of the user version in the header of SQLite's format
    write_file(folder / "a.sqlite", content);
    check_message([&] { (void)ResultsFile::reading(folder / "a.sqlite"); },
                  "it has version 3 of the results file, and this program knows versions 1 to 2");
  }

  TEST_CASE("a file that was cut off is refused without being changed") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    fill(folder / "a.sqlite", campaign);
    const std::string whole = read_file(folder / "a.sqlite");
    for (const double part : {0.3, 0.6, 0.95}) {
      const std::string cut = whole.substr(0, static_cast<std::size_t>(part * static_cast<double>(whole.size())));
      write_file(folder / "cut.sqlite", cut);
      check_message([&] { (void)ResultsFile::for_campaign(folder / "cut.sqlite", campaign); }, "the file is damaged");
      CHECK(read_file(folder / "cut.sqlite") == cut);
    }
  }

  TEST_CASE("one process writes to a file at a time, others may read") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    ResultsFile file = ResultsFile::for_campaign(folder / "a.sqlite", campaign);
    CHECK(file.add(campaign.perform({0, 1, 0})));
    check_message([&] { (void)ResultsFile::for_campaign(folder / "a.sqlite", campaign); },
                  "another program is writing to it");
    CHECK(ResultsFile::reading(folder / "a.sqlite").done().size() == 1);
    CHECK(file.add(campaign.perform({0, 1, 1})));
  }

  TEST_CASE("of an unfinished campaign only the repeats that all methods have done are compared") {
    const testing::TemporaryFolder folder;
    const Campaign campaign = campaign_of(small_plan());
    ResultsFile file = ResultsFile::for_campaign(folder / "a.sqlite", campaign);
    CHECK(file.add(campaign.perform({0, 1, 0})));
    CHECK_THROWS_WITH_AS((void)compare(file.load()), doctest::Contains("of 12 runs 1 are done"), InputError);
    CHECK(file.add(campaign.perform({0, 3, 0})));
    CHECK(file.add(campaign.perform({0, 3, 1})));
    const Results results = file.load();
    CHECK(results.done() == 3);
    CHECK(results.repeats_of(0) == std::vector<std::int64_t>{3});
    const auto comparisons = compare(results);
    REQUIRE(comparisons.size() == 1);
    CHECK(comparisons[0].rows[0].repeats == 1);
  }

  TEST_CASE("a run without its trace takes at most 1.5 KB") {
    const testing::TemporaryFolder folder;
    PlanDefinition plan = small_plan();
    plan.problems = {"rosenbrock:dim=10"};
    plan.repeats = 1000;
    plan.trace_rows = 0;
    const Campaign campaign = campaign_of(plan);
    ResultsFile file = ResultsFile::for_campaign(folder / "a.sqlite", campaign);
    const RunRecord done = campaign.perform({0, 1, 0});
    REQUIRE(done.hits.size() == campaign.problems()[0].gaps.size()); // every target reached: the longest record
    RunRecord record = done;
    for (std::int64_t repeat = 1; repeat <= 1000; ++repeat) {
      for (const std::size_t method : {0U, 1U}) {
        record.key = {0, repeat, method};
        file.add(record);
      }
    }
    file = ResultsFile::reading(folder / "a.sqlite"); // closes it
    CHECK(static_cast<double>(fs::file_size(folder / "a.sqlite")) / 2000 <= 1.5 * 1024);
  }
}
