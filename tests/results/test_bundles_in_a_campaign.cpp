#include "tanzen/base/errors.hpp"
#include "tanzen/comparison/comparison.hpp"
#include "tanzen/files/named_problem.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/work.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <fmt/format.h>
#include <map>

using namespace tanzen;
using testing::TemporaryFolder;

namespace {

constexpr std::string_view kiln_template = R"([problem]
name     = "kiln"
minimize = "loss*radius*wall + {}*radius^2"
[variables]
radius = {{ start = 0.6, lower = 0.2, upper = {} }}
wall   = {{ start = 0.8, lower = 0.1, upper = 2.0 }}
[parameters]
loss = 5.65
[constraints]
capacity = "pi*radius^2*wall + 2/3*pi*radius^3 >= {}"
[fit_is_elsewhere]
)";

std::string kiln_file(const char* roof = "10", const char* widest = "1.5", const char* capacity = "0.75") {
  const std::string text = fmt::format(fmt::runtime(kiln_template), roof, widest, capacity);
  return text.substr(0, text.find("[fit_is"));
}

constexpr const char* curve = "[problem]\nname = \"curve\"\n[variables]\na = { start = 1 }\nb = { start = 0.1 }\n"
                              "[fit]\ndata = \"curve.csv\"\nmodel = \"y = a*exp(-b*t)\"\n";
constexpr const char* firing =
    "[problem]\nname = \"firing\"\nobjectives = { gas = \"minimize 60/r + s\", broken = \"minimize "
    "r^2 + 9/s\" }\n[variables]\nr = { start = 2, lower = 1, upper = 9 }\ns = { start = 2, lower = "
    "0.5, upper = 9 }\n";

/// The files of the three slices in a folder, and a campaign of one method on each problem that it can handle.
struct Slices {
  TemporaryFolder folder;

  Slices() {
    write_file(folder / "kiln.toml", kiln_file());
    write_file(folder / "curve.csv", "t,y\n0,3.1\n1,2.4\n2,2.05\n3,1.6\n5,1.05\n8,0.6\n");
    write_file(folder / "curve.toml", curve);
    write_file(folder / "firing.toml", firing);
  }
  [[nodiscard]] Campaign campaign(const std::string& problem, std::vector<PlannedMethod> methods) const {
    PlanDefinition plan{.seed = 3, .repeats = 4, .problems = {problem}, .methods = std::move(methods)};
    plan.stop = {.evaluations = 1500};
    return Campaign(plan, {.problem = [this](const std::string& name) { return named_problem(name, folder.path()); }});
  }
  [[nodiscard]] Campaign constrained() const {
    return campaign("kiln.toml", {{"by-bounded", "augmented-lagrangian"},
                                  {"by-simplex", "augmented-lagrangian", {{"local", "nelder-mead"}}}});
  }
  [[nodiscard]] Campaign fitted() const {
    return campaign("curve.toml", {{"marquardt", "levenberg-marquardt"}, {"plain", "lbfgs"}});
  }
  [[nodiscard]] Campaign fronts() const {
    return campaign("firing.toml",
                    {{"sorting", "nondominated-sorting"}, {"small", "nondominated-sorting", {{"population", "20"}}}});
  }
};

void do_runs(const std::filesystem::path& path, const Campaign& campaign, const CampaignPart& part = {},
             std::size_t most = 1000) {
  ResultsFile file = ResultsFile::for_campaign(path, campaign);
  for (const std::size_t k : missing_runs(campaign, file.done(), part)) {
    if (most-- == 0) return;
    file.add(campaign.perform(campaign.key(k)));
  }
}

/// All that a file says of its runs, but for their times.
std::vector<std::string> told(const std::filesystem::path& path) {
  std::vector<std::string> lines;
  ResultsFile::reading(path).for_each([&](const RunRecord& record) {
    lines.push_back(fmt::format("{} {} {} {} {} {} {} {} {} {} {}", record.key.problem, record.key.repeat,
                                record.key.method, status_word(record.status), record.value, record.violation,
                                record.feasible, record.converged, record.counts[Spent::evaluations],
                                record.front.sum(), record.trace.rows()));
  });
  return lines;
}

std::string refusal(const std::filesystem::path& path, const Campaign& campaign) {
  try {
    (void)ResultsFile::for_campaign(path, campaign);
  } catch (const InputError& error) {
    return error.what();
  }
  return "taken";
}

} // namespace

TEST_SUITE("campaigns of constraints, fits and fronts") {
  TEST_CASE("stopped and resumed, and merged from parts, they come to the same tables") {
    const Slices slices;
    const std::map<std::string, Campaign (Slices::*)() const> all = {
        {"constrained", &Slices::constrained}, {"fitted", &Slices::fitted}, {"fronts", &Slices::fronts}};
    for (const auto& [name, make] : all) {
      CAPTURE(name);
      const auto file = [&](const char* what) { return slices.folder / (name + what + ".sqlite"); };
      const Campaign campaign = (slices.*make)();
      do_runs(file("-whole"), campaign);
      for (int stop = 0; stop < 8; ++stop) do_runs(file("-resumed"), (slices.*make)(), {}, 1);
      do_runs(file("-1"), campaign, {1, 2});
      do_runs(file("-2"), campaign, {2, 2});
      CHECK(merge_results(file("-merged"), {file("-1"), file("-2")}) == campaign.size());
      const auto whole = told(file("-whole"));
      CHECK(whole.size() == campaign.size());
      CHECK(told(file("-resumed")) == whole);
      CHECK(told(file("-merged")) == whole);
      const auto a = compare(ResultsFile::reading(file("-whole")).load()),
                 b = compare(ResultsFile::reading(file("-merged")).load());
      CHECK(a.front().keys == b.front().keys);
      CHECK(a.front().rows[0].repeats == 4);
    }
  }

  TEST_CASE("a success is feasible, and a front is measured by what it covers") {
    const Slices slices;
    const Results kilns = run_campaign(slices.constrained(), {.workers = 1});
    for (const ResultsRun* run : kilns.runs(0, 0)) {
      CHECK(run->feasible);
      CHECK(std::isfinite(run->gap));
    }
    ResultsHead head = results_head(slices.constrained());
    Results made_up(head);
    RunRecord low{.key = {0, 1, 0}, .status = Status::evaluations, .value = -100, .violation = 3, .feasible = false};
    RunRecord kept{.key = {0, 1, 1}, .status = Status::method, .value = 5};
    made_up.add(low);
    made_up.add(kept);
    made_up.finish();
    CHECK(made_up.run({0, 1, 0}).gap == std::numeric_limits<double>::infinity());
    CHECK(made_up.run({0, 1, 1}).gap == 0);
    const Results fronts = run_campaign(slices.fronts(), {.workers = 1});
    CHECK(fronts.problems()[0].sense == Sense::maximize);
    for (const ResultsRun* run : fronts.runs(0, 0)) CHECK(run->value > 0);
  }

  TEST_CASE("whatever makes a problem another one is refused with what differs") {
    const Slices slices;
    do_runs(slices.folder / "k.sqlite", slices.constrained(), {}, 1);
    CHECK(refusal(slices.folder / "k.sqlite", slices.constrained()) == "taken");
    const auto changed = [&](const std::string& text, const char* what) {
      CAPTURE(what);
      write_file(slices.folder / "kiln.toml", text);
      const std::string said = refusal(slices.folder / "k.sqlite", slices.constrained());
      CHECK(said.find(what) != std::string::npos);
    };
    changed(kiln_file("11"), "differs in its objective value: 'minimize loss*radius*wall + 10*radius^2' in the file");
    changed(kiln_file("10", "1.5", "0.8"), "differs in its constraint capacity");
    changed(kiln_file("10", "1.6"), "differs in its bounds");
    changed(kiln_file(), "taken");
  }

  TEST_CASE("a changed cell of the data is another problem") {
    const Slices slices;
    do_runs(slices.folder / "c.sqlite", slices.fitted(), {}, 1);
    write_file(slices.folder / "curve.csv", "t,y\n0,3.1\n1,2.4\n2,2.05\n3,1.6\n5,1.05\n8,0.61\n");
    CHECK(refusal(slices.folder / "c.sqlite", slices.fitted()).find("differs in its data") != std::string::npos);
  }

  TEST_CASE("a changed command of a program is another problem") {
    const Slices slices;
    const auto campaign_of = [&](const char* word) {
      write_file(
          slices.folder / "trial.toml",
          fmt::format(
              "[problem]\nname = \"trial\"\n[program]\ncommand = [\"python3\", \"{}.py\"]\n[variables]\nx = {{ start = "
              "1, lower = 0, upper = 2 }}\n",
              word));
      PlanDefinition plan{.repeats = 1, .problems = {"trial.toml"}, .methods = {{"simplex", "nelder-mead"}}};
      return Campaign(plan,
                      {.problem = [&](const std::string& name) { return named_problem(name, slices.folder.path()); }});
    };
    (void)ResultsFile::for_campaign(slices.folder / "p.sqlite", campaign_of("a"));
    CHECK(refusal(slices.folder / "p.sqlite", campaign_of("b"))
              .find("differs in its program: 'python3 a.py' in the file") != std::string::npos);
  }

  TEST_CASE("a file of version 1 is compared and exported, and not gone on with") {
    const TemporaryFolder folder;
    std::filesystem::copy_file(TANZEN_SOURCE "/tests/results/version-1.sqlite", folder / "old.sqlite");
    const std::string before = read_file(folder / "old.sqlite");
    const Results results = ResultsFile::reading(folder / "old.sqlite").load(true);
    CHECK(results.done() == 12);
    const auto compared = compare(results);
    REQUIRE(compared.size() == 2);
    CHECK(compared[0].rows[0].successes == 3); // as the version that wrote it said
    CHECK(results.run({0, 1, 0}).progress.cost.size() > 3);
    CHECK(results.run({0, 1, 0}).feasible);
    export_results(ResultsFile::reading(folder / "old.sqlite"), folder / "tables");
    CHECK(read_file(folder / "tables" / "runs.csv").find("rosenbrock,1,simplex,2,target,1,") != std::string::npos);
    CHECK(read_file(folder / "tables" / "traces.csv").find("rosenbrock,1,simplex,0,1,") != std::string::npos);
    const Campaign same(read_plan(TANZEN_SOURCE "/tests/results/version-1.toml"), PlanNames{});
    CHECK(refusal(folder / "old.sqlite", same)
              .find("it has version 1 of the results file, which does not keep all that makes a "
                    "problem what it is: it can be compared and exported, not gone on with") != std::string::npos);
    CHECK(read_file(folder / "old.sqlite") == before);
  }

  TEST_CASE("a method that cannot is refused before anything runs, with those that can") {
    const Slices slices;
    CHECK_THROWS_WITH_AS((void)slices.campaign("kiln.toml", {{"bfgs", "bfgs"}}),
                         "bfgs cannot keep constraints, and kiln has 1; these can: augmented-lagrangian, "
                         "sequential-quadratic, interior-point, linear-model, penalty, mesh-adaptive, multistart, "
                         "single-linkage, 7 more",
                         InputError);
  }
}
