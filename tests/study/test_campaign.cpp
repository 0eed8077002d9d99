#include "tanzen/base/errors.hpp"
#include "tanzen/files/named_problem.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/results/record_bytes.hpp"
#include "tanzen/results/results.hpp"
#include "tanzen/study/campaign.hpp"
#include "tanzen/study/targets.hpp"
#include "tanzen/study/work.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/program.hpp"
#include "support/traces.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <set>
#include <stdexcept>

using namespace tanzen;

namespace {

Campaign small_campaign(PlanDefinition plan = {}) {
  if (plan.problems.empty()) plan.problems = {"rosenbrock", "rastrigin:dim=2,3"};
  if (plan.methods.empty()) plan.methods = {{"bfgs", "bfgs"}, {"evolution", "differential-evolution"}};
  plan.repeats = 3;
  plan.stop = {.evaluations = 400};
  return Campaign(plan, PlanNames{});
}

void check_same(const RunRecord& a, const RunRecord& b) {
  CHECK(a.key == b.key);
  CHECK(a.status == b.status);
  CHECK(a.message == b.message);
  CHECK((a.value == b.value || (std::isnan(a.value) && std::isnan(b.value))));
  CHECK(a.point == b.point);
  CHECK(a.counts[Spent::evaluations] == b.counts[Spent::evaluations]);
  CHECK(a.counts[Spent::gradients] == b.counts[Spent::gradients]);
  CHECK(a.iterations == b.iterations);
  CHECK(a.hits.size() == b.hits.size());
  CHECK(testing::same_trace(a.trace, b.trace));
}

/// Fails in a way of its own.
struct Thrower {
  Index way = 0;
  void settings(Settings& list) { list.add("way", way); }
  Search search(Evaluator& evaluate, Start start) const {
    if (way == 0) throw std::runtime_error("the glaze ran");
    if (way == 1) throw 7;
    if (way == 2) throw InputError("the kiln is cold");
    for (;;) co_yield Iteration(start.point, evaluate(start.point));
  }
};

} // namespace

TEST_SUITE("campaign") {
  TEST_CASE("families are spelled out, the last option changing fastest") {
    CHECK(family_members("rosenbrock") == std::vector<std::string>{"rosenbrock"});
    CHECK(family_members("rosenbrock:dim=2, 5,10") ==
          std::vector<std::string>{"rosenbrock:dim=2", "rosenbrock:dim=5", "rosenbrock:dim=10"});
    CHECK(family_members("a:x=1,2,y=3,4") ==
          std::vector<std::string>{"a:x=1,y=3", "a:x=1,y=4", "a:x=2,y=3", "a:x=2,y=4"});
    CHECK_THROWS_AS((void)family_members("rosenbrock:2,5"), InputError);
    CHECK_THROWS_AS((void)family_members("rosenbrock:dim=2,,5"), InputError);
  }

  TEST_CASE("placements and noise multiply the problems of the testbed, not the files") {
    const testing::TemporaryFolder folder;
    write_file(folder / "kiln.toml",
               "[problem]\nminimize = \"(x - 1)^2\"\n[variables]\nx = { lower = 0, upper = 3 }\n");
    PlanDefinition plan{.problems = {"sphere", "kiln.toml"}, .methods = {{"simplex", "nelder-mead"}}};
    plan.placements = {0, 4};
    plan.noise = {"none", "normal:0.5"};
    plan.best = {{"kiln.toml", 0}};
    const Campaign campaign(plan,
                            {.problem = [&](const std::string& name) { return named_problem(name, folder.path()); }});
    std::vector<std::string> labels;
    for (const CampaignProblem& each : campaign.problems()) labels.push_back(each.label);
    CHECK(labels == std::vector<std::string>{"sphere", "sphere:noise=normal:0.5", "sphere:placement=4",
                                             "sphere:placement=4,noise=normal:0.5", "kiln.toml"});
    CHECK(campaign.problems()[1].problem.is_noisy());
    CHECK(campaign.problems()[1].problem.traits().back() == "noisy");
    CHECK(campaign.problems()[0].problem.traits() ==
          std::vector<std::string>{"smooth", "convex", "separable", "unimodal"});
    CHECK(campaign.problems()[4].problem.definition()->objectives.front().text == "(x - 1)^2");
  }

  TEST_CASE("targets fall from below the median gap of random points by three a decade to the smallest") {
    const auto gaps = gaps_from(20, 1e-2);
    CHECK(gaps.front() == doctest::Approx(10));
    CHECK(gaps[1] == doctest::Approx(std::pow(10, 2.0 / 3)));
    CHECK(gaps.back() == 1e-2);
    CHECK(gaps.size() == 10); // 1 - (-2) = 3 decades of three, and both ends
    CHECK(gaps_from(1e-9, 1e-8) == std::vector{1e-8});
    CHECK(gaps_from(1, 3e-4).back() == 3e-4);
    // The median gap of uniform points on the sphere in [-5, 5]^2 is (5 r)^2 with pi r^2 / 4 = 1/2: 15.9.
    CHECK(usual_gaps(testbed::problem("sphere", 2), 1).front() == doctest::Approx(10));
  }

  TEST_CASE("every run has one place, and what is paired stands together") {
    const Campaign campaign = small_campaign();
    CHECK(campaign.size() == 18);
    std::set<RunKey> keys;
    for (std::size_t k = 0; k < campaign.size(); ++k) keys.insert(campaign.key(k));
    CHECK(keys.size() == 18);
    CHECK(campaign.key(0) == RunKey{0, 1, 0});
    CHECK(campaign.key(1) == RunKey{0, 1, 1});
    CHECK(campaign.key(17) == RunKey{2, 3, 1});
  }

  TEST_CASE("what is missing of a part is what is not done of it") {
    const Campaign campaign = small_campaign();
    CHECK(missing_runs(campaign).size() == 18);
    CHECK(missing_runs(campaign, {campaign.key(1), campaign.key(4)}, {2, 3}) ==
          std::vector<std::size_t>{7, 10, 13, 16});
  }

  TEST_CASE("a run is the same, whoever does it and when, and is the run of its seed") {
    const Campaign campaign = small_campaign({.seed = 5});
    const RunKey key{0, 2, 1};
    const RunRecord record = campaign.perform(key);
    check_same(record, small_campaign({.seed = 5}).perform(key));
    const Outcome outcome = run(testbed::problem("rosenbrock"), method("differential-evolution"),
                                {.seed = 5, .repeat = 2, .stop = {.evaluations = 400, .gap = 1e-7}});
    CHECK(outcome.value == record.value);
    CHECK(outcome.point == record.point);
    CHECK(campaign.perform({0, 3, 1}).point != record.point);
  }

  TEST_CASE("all methods of a repeat begin at one point, and variants of a method draw the same numbers") {
    PlanDefinition plan{.problems = {"rastrigin:dim=3"}};
    plan.methods = {{"a", "differential-evolution"}, {"b", "differential-evolution"}, {"simplex", "nelder-mead"}};
    const Campaign campaign = small_campaign(plan);
    const RunRecord a = campaign.perform({0, 2, 0}), b = campaign.perform({0, 2, 1}), c = campaign.perform({0, 2, 2});
    CHECK(a.point == b.point);
    CHECK(testing::same_trace(a.trace, b.trace));
    const auto at_start = [](const RunRecord& record) { return record.trace.at(0, Trace::value); };
    CHECK(at_start(a) == at_start(c));
    CHECK(at_start(a) != at_start(campaign.perform({0, 3, 0})));
  }

  TEST_CASE("from the problem's own start all repeats of a method without chance are the same") {
    PlanDefinition plan{.problems = {"rosenbrock"}, .methods = {{"bfgs", "bfgs"}}};
    plan.starts = PlannedStarts::own;
    const Campaign campaign = small_campaign(plan);
    RunRecord first = campaign.perform({0, 1, 0});
    CHECK(first.trace.at(0, Trace::value) == doctest::Approx(24.2)); // at (-1.2, 1)
    first.key.repeat = 3;
    check_same(first, campaign.perform({0, 3, 0}));
  }

  TEST_CASE("differences cost evaluations, exact derivatives gradients") {
    PlanDefinition plan{.problems = {"rosenbrock"}, .methods = {{"bfgs", "bfgs"}}};
    CHECK(small_campaign(plan).perform({0, 1, 0}).counts[Spent::gradients] > 0);
    plan.derivative = DerivativeMode::central;
    const RunRecord central = small_campaign(plan).perform({0, 1, 0});
    CHECK(central.counts[Spent::gradients] == 0);
    CHECK(central.counts[Spent::evaluations] > 4 * central.iterations);
  }

  TEST_CASE("placements move the minimum, and every method sees the same ones") {
    PlanDefinition plan{.problems = {"sphere"}};
    plan.placements = {1, 2};
    const Campaign campaign = small_campaign(plan);
    REQUIRE(campaign.problems().size() == 2);
    const auto minimum = [&](std::size_t p) { return campaign.problems()[p].problem.known_minima().front().point; };
    CHECK(minimum(0) != minimum(1));
    CHECK((campaign.perform({0, 1, 0}).point - minimum(0)).norm() < 1e-3);
    CHECK((campaign.perform({1, 1, 0}).point - minimum(1)).norm() < 1e-3);
  }

  TEST_CASE("a trace is kept within its rows, or not at all") {
    PlanDefinition plan{.problems = {"rosenbrock"}, .methods = {{"descent", "gradient-descent", {{"step", "1e-4"}}}}};
    plan.trace_rows = 20;
    const auto rows = small_campaign(plan).perform({0, 1, 0}).trace.rows();
    CHECK(rows <= 20);
    CHECK(rows >= 8);
    plan.trace_rows = 0;
    CHECK(small_campaign(plan).perform({0, 1, 0}).trace.rows() == 0);
  }

  TEST_CASE("a record comes back from bytes to the bit") {
    const Campaign campaign = small_campaign();
    RunRecord record = campaign.perform({1, 2, 1});
    check_same(record, record_from_bytes(record_to_bytes(record)));
    record.value = std::numeric_limits<double>::quiet_NaN();
    check_same(record, record_from_bytes(record_to_bytes(record)));
  }

  TEST_CASE("the hits say what had been used when each gap was first reached") {
    const Campaign campaign = small_campaign();
    const RunRecord record = campaign.perform({0, 1, 0});
    const auto& gaps = campaign.problems()[0].gaps;
    REQUIRE(record.status == Status::target);
    REQUIRE(record.hits.size() == gaps.size());
    CHECK(record.hits.back()[Spent::evaluations] == record.counts[Spent::evaluations]);
    for (std::size_t k = 1; k < gaps.size(); ++k)
      CHECK(record.hits[k][Spent::evaluations] >= record.hits[k - 1][Spent::evaluations]);
    // A run that stops at a gap has spent what the hit says.
    for (const std::size_t k : {std::size_t{3}, gaps.size() / 2}) {
      const Outcome outcome =
          run(testbed::problem("rosenbrock"), method("bfgs"), {.repeat = 1, .stop = {.gap = gaps[k]}});
      CHECK(outcome.counts[Spent::evaluations] == record.hits[k][Spent::evaluations]);
    }
  }

  TEST_CASE("under noise a run is judged by the values without it, and methods share the noise of a repeat") {
    PlanDefinition plan{.problems = {"sphere:noise=normal:0.1"}, .methods = {{"simplex", "nelder-mead"}}};
    plan.repeats = 4;
    plan.stop = {.evaluations = 300};
    const Campaign campaign(plan, PlanNames{});
    const Problem exact = testbed::problem("sphere", 2);
    std::set<double> values;
    for (std::int64_t repeat = 1; repeat <= 4; ++repeat) {
      const RunRecord record = campaign.perform({0, repeat, 0});
      CHECK(record.value == exact.value(record.point));
      CHECK(record.value >= 0); // a noisy value would often be below
      CHECK(record.status != Status::target);
      CHECK(record.hits.size() >= 4);
      CHECK(record.hits.size() < campaign.problems()[0].gaps.size());
      values.insert(record.value);
      check_same(record, campaign.perform({0, repeat, 0}));
    }
    CHECK(values.size() == 4);
  }

  TEST_CASE("what goes wrong in a run is in its record, and the others go on") {
    const Method thrower("thrower", Thrower{});
    const Problem fragile = Problem::black_box(1,
                                               [](const Vector& x) -> double {
                                                 if (x[0] < 0.5) throw std::runtime_error("out of clay");
                                                 return x[0];
                                               })
                                .region(0, 1)
                                .named("fragile")
                                .known_minimum({0.5}, 0.5);
    const Campaign campaign({.repeats = 6, .stop = {.evaluations = 50}}, {testbed::problem("sphere"), fragile},
                            {thrower, thrower.with("way", 1), thrower.with("way", 2), method("nelder-mead")});
    const Results results = run_campaign(campaign, {.workers = 2});
    CHECK(results.done() == campaign.size());
    CHECK(results.run({0, 1, 0}).status == Status::failed);
    CHECK(results.run({0, 1, 0}).message.find("the glaze ran") != std::string::npos);
    CHECK(results.run({0, 1, 1}).status == Status::failed);
    CHECK(results.run({0, 1, 2}).message.find("the kiln is cold") != std::string::npos);
    CHECK(results.run({0, 1, 3}).status == Status::evaluations);
    int broken = 0;
    for (std::int64_t repeat = 1; repeat <= 6; ++repeat)
      broken += results.run({1, repeat, 3}).message.find("out of clay") != std::string::npos ? 1 : 0;
    CHECK(broken > 0);
  }

  TEST_CASE("a plan that cannot be done is refused before anything runs") {
    const auto refused = [](PlanDefinition plan, const char* says) {
      CHECK_THROWS_WITH_AS(Campaign(plan, PlanNames{}), doctest::Contains(says), InputError);
    };
    const std::vector<PlannedMethod> simplex{{"simplex", "nelder-mead"}};
    refused({.problems = {"rosenbrok"}, .methods = simplex}, "did you mean 'rosenbrock'?");
    refused({.problems = {"sphere", "sphere"}, .methods = simplex}, "the problem sphere twice");
    refused({.problems = {"sphere"}, .methods = {{"a", "nelder-meat"}}}, "did you mean 'nelder-mead'?");
    refused({.problems = {"sphere"}, .methods = {{"a", "nelder-mead", {{"size", "-1"}}}}}, "above 0");
    refused({.problems = {"sphere"}, .methods = {{"g", "golden-section"}}},
            "golden-section works in one variable, and sphere has 2");
    refused({.problems = {"sphere"}, .methods = simplex, .best = {{"spheer", 1}}}, "[best] names spheer");
    PlanDefinition bounded{.problems = {"eggholder"}, .methods = {{"newton", "newton"}}};
    refused(bounded, "newton cannot keep within bounds, and eggholder has them");
    const Problem unknown = Problem::from_formula("x^2 + y").named("unknown");
    PlanDefinition without_traces;
    without_traces.trace_rows = 0;
    CHECK_THROWS_WITH_AS(Campaign(without_traces, {unknown}, {method("nelder-mead")}),
                         doctest::Contains("give it under [best], or keep traces"), InputError);
    CHECK_THROWS_WITH_AS(Campaign({.starts = PlannedStarts::own}, {unknown}, {method("nelder-mead")}),
                         doctest::Contains("has no start of its own"), InputError);
  }

  TEST_CASE("each run is done once, by as many workers as there are, and an error in keeping ends the work") {
    const Campaign campaign = small_campaign();
    for (const std::size_t workers : {1U, 2U, 5U}) {
      RunQueue queue(campaign, missing_runs(campaign));
      std::multiset<RunKey> kept;
      CHECK(work_on(campaign, workers,
                    {[&] { return queue.next(); }, [&](const RunRecord& record) { kept.insert(record.key); }}));
      CHECK(kept.size() == campaign.size());
      CHECK(std::set<RunKey>(kept.begin(), kept.end()).size() == campaign.size());
    }
    RunQueue queue(campaign, {0, 1, 2, 3});
    int calls = 0;
    const auto full = [&](const RunRecord&) {
      if (++calls == 2) throw FileError("the shelf is full");
    };
    CHECK_THROWS_WITH_AS((void)work_on(campaign, 2, {[&] { return queue.next(); }, full}), "the shelf is full",
                         FileError);
    CHECK(calls == 2);
  }

  TEST_CASE("work that is stopped gives up what is under way") {
    const Campaign campaign = small_campaign();
    RunQueue queue(campaign, {0, 1, 2});
    int kept = 0;
    CHECK_FALSE(work_on(campaign, 1, {[&] { return queue.next(); }, [&](const RunRecord&) { ++kept; }},
                        [&] { return kept == 1; }));
    CHECK(kept == 1);
  }

  TEST_CASE("where no best value is known, targets are gaps to the best of all runs, from the traces") {
    const Problem unknown = Problem::from_formula("(x - 1)^2 + 3").named("unknown").region(-4, 4);
    const Campaign campaign({.repeats = 3, .stop = {.evaluations = 200}}, {unknown}, {method("nelder-mead")});
    const Results results = run_campaign(campaign, {.workers = 1});
    const ResultsProblem& problem = results.problems().front();
    CHECK_FALSE(problem.reference_is_known);
    CHECK(problem.reference == doctest::Approx(3));
    CHECK(problem.gaps.back() == 1e-7);
    CHECK(problem.gaps.front() > 1);
    double best = 1;
    for (const ResultsRun* run : results.runs(0, 0)) {
      CHECK(run->hits.size() == problem.gaps.size());
      CHECK(run->cost_to(problem.gaps.size() - 1) <= run->cost);
      best = std::min(best, run->gap);
    }
    CHECK(best == 0);
  }
}
