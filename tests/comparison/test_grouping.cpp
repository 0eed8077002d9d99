#include "tanzen/base/errors.hpp"
#include "tanzen/comparison/grouping.hpp"
#include "tanzen/comparison/robustness.hpp"
#include "tanzen/comparison/scaling.hpp"
#include "tanzen/comparison/verdict.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;

namespace {

struct MadeUp {
  std::string label;
  Index dimension;
  std::vector<std::string> traits;
};

/// Two methods, four repeats: `steady` solves everything at 10 n^2; `fickle` at 5 n^2, but on placement 2 only in the
/// first repeat, and nothing that is multimodal.
Results made_up() {
  const std::vector<MadeUp> problems = {{"valley:dim=2,placement=1", 2, {"unimodal", "valley"}},
                                        {"valley:dim=4,placement=1", 4, {"unimodal", "valley"}},
                                        {"valley:dim=8,placement=1", 8, {"unimodal", "valley"}},
                                        {"valley:dim=2,placement=2", 2, {"unimodal", "valley"}},
                                        {"egg:placement=2", 2, {"multimodal"}}};
  ResultsHead head{.repeats = 4, .methods = {"steady", "fickle"}, .method_names = {"simplex", "simplex"}};
  for (const auto& [label, dimension, traits] : problems)
    head.problems.push_back(
        {.label = label, .dimension = dimension, .traits = traits, .gaps = {1e-2}, .reference_is_known = true});
  Results results(head);
  for (std::size_t p = 0; p < problems.size(); ++p) {
    for (std::int64_t repeat = 1; repeat <= 4; ++repeat) {
      for (const std::size_t m : {0U, 1U}) {
        const bool is_second = problems[p].label.ends_with("placement=2");
        const bool solves = m == 0 || (problems[p].traits.front() == "unimodal" && (!is_second || repeat == 1));
        const auto cost = (m == 0 ? 10 : 5) * problems[p].dimension * problems[p].dimension;
        RunRecord record{.key = {p, repeat, m}, .status = solves ? Status::target : Status::evaluations};
        record.value = solves ? 1e-3 : 1;
        record.counts[Spent::evaluations] = solves ? cost : 1000;
        if (solves) record.hits = {Counts(Counts::Numbers{cost, 0, 0})};
        results.add(record);
      }
    }
  }
  results.finish();
  return results;
}

std::vector<std::string> names_of(const std::vector<ProblemGroup>& groups) {
  std::vector<std::string> names;
  for (const ProblemGroup& group : groups) names.push_back(group.name + " " + std::to_string(group.problems.size()));
  return names;
}

} // namespace

TEST_SUITE("grouping") {
  TEST_CASE("by trait, dimension, family, an option, and combinations of them") {
    const Results results = made_up();
    using Names = std::vector<std::string>;
    CHECK(names_of(group_problems(results)) == Names{"all problems 5"});
    CHECK(names_of(group_problems(results, "trait")) == Names{"multimodal 1", "unimodal and valley 4"});
    CHECK(names_of(group_problems(results, "dim")) == Names{"dim=2 3", "dim=4 1", "dim=8 1"});
    CHECK(names_of(group_problems(results, "family")) == Names{"egg 1", "valley 4"});
    CHECK(names_of(group_problems(results, "placement")) == Names{"placement=1 3", "placement=2 2"});
    CHECK(names_of(group_problems(results, "family,placement")) ==
          Names{"egg, placement=2 1", "valley, placement=1 3", "valley, placement=2 1"});
    CHECK_THROWS_WITH_AS((void)group_problems(results, "traits"), doctest::Contains("did you mean 'trait'?"),
                         InputError);
  }

  TEST_CASE("a program's own problem may have any name") {
    const ResultsProblem own{.label = "kiln: a night's firing, cold"};
    CHECK(own.family() == own.label);
    CHECK(own.option_names().empty());
    CHECK(own.label_without("dim") == own.label);
  }

  TEST_CASE("only the problems that have all of the words") {
    const Results results = made_up();
    CHECK(only_problems(results, "unimodal,dim=2").problems == std::vector<std::size_t>{0, 3});
    CHECK(only_problems(results, "family=egg").problems == std::vector<std::size_t>{4});
    CHECK(only_problems(results, "placement=2,valley").problems == std::vector<std::size_t>{3});
    CHECK_THROWS_WITH_AS((void)only_problems(results, "smooth"), doctest::Contains("multimodal, unimodal, valley"),
                         InputError);
  }

  TEST_CASE("over a group, runs, ranks, effects and scores are those worked out by hand") {
    const Results results = made_up();
    const auto comparisons = compare(results);
    const GroupComparison all = compare_over(comparisons, results, group_problems(results).front());
    CHECK(all.problems == 5);
    CHECK(all.rows[0].successes == 20);
    CHECK(all.rows[1].successes == 13);
    // fickle is cheaper on three problems, and on the fourth in one repeat of four.
    CHECK(all.rows[0].mean_rank == doctest::Approx((3 * 2 + 1.25 + 1) / 5));
    CHECK(all.first == 1);
    CHECK(all.rows[0].to_first.wins == 2);
    CHECK(all.rows[0].to_first.losses == 3);
    CHECK(all.rows[0].effect == doctest::Approx((3 * 0 + 0.75 + 1) / 5));
    CHECK(verdict_text(all).find("fickle has the best mean rank, 1.35, but the data do not separate the methods") !=
          std::string::npos);
    // On dim=4 alone: one problem, cost 160 of 160: done at the very end; 80 of 160: half the logarithm
    // log(2)/log(160).
    const GroupComparison four = compare_over(comparisons, results, {"dim=4", {1}});
    CHECK(four.rows[0].anytime == 0);
    CHECK(four.rows[1].anytime == doctest::Approx(std::log(2) / std::log(160)));
  }

  TEST_CASE("scaling: expected running times against dimensions, and the exponent of the power law") {
    const Results results = made_up();
    const auto rows = scaling_of(compare(results), results);
    REQUIRE(rows.size() == 2); // valley:placement=1 alone has several dimensions
    CHECK(rows[0].family == "valley:placement=1");
    CHECK(rows[0].method == "steady");
    CHECK(rows[0].variables == std::vector<double>{2, 4, 8});
    CHECK(rows[0].costs == std::vector<double>{40, 160, 640});
    CHECK(rows[0].exponent == doctest::Approx(2));
    CHECK(rows[0].exponent_error == doctest::Approx(0));
    CHECK(rows[1].costs == std::vector<double>{20, 80, 320});
  }

  TEST_CASE("robustness: success rates from the worst level to the best, over starts, options and settings") {
    const Results results = made_up();
    const auto rows = robustness_of(compare(results), results);
    const auto row = [&](const char* method, const char* factor) {
      const auto found = std::ranges::find_if(
          rows, [&](const RobustnessRow& each) { return each.method == method && each.factor == factor; });
      REQUIRE(found != rows.end());
      return *found;
    };
    const RobustnessRow starts = row("fickle", "start");
    CHECK(starts.success_rates.lower == doctest::Approx(0.6)); // three of five problems from every start
    CHECK(starts.success_rates.upper == doctest::Approx(0.8)); // a fourth from one
    CHECK(starts.worst == "egg:placement=2");
    const RobustnessRow placements = row("fickle", "placement");
    CHECK(placements.levels == 2);
    CHECK(placements.success_rates.lower == doctest::Approx(1.0 / 4)); // valley:dim=2 alone has both placements
    CHECK(placements.success_rates.upper == 1);
    CHECK(placements.worst == "placement=2");
    CHECK(
        std::ranges::none_of(rows, [](const RobustnessRow& each) { return each.factor == "dim"; })); // that is scaling
    const RobustnessRow settings = row("simplex", "settings");
    CHECK(settings.levels == 2);
    CHECK(settings.success_rates.lower == doctest::Approx(13.0 / 20));
    CHECK(settings.success_rates.upper == 1);
  }
}
