#include "tanzen/base/errors.hpp"
#include "tanzen/files/plan_file.hpp"

#include <doctest/doctest.h>

using namespace tanzen;

namespace {

struct WrongPlan {
  const char* text;
  const char* says;
};

constexpr WrongPlan wrong_plans[] = {
    {"", "the plan is empty"},
    {"problems = [\"sphere\"]", "names no method"},
    {"[methods]\nbfgs = {}", "names no problem"},
    {"problem = [\"sphere\"]", "a plan has no 'problem'"},
    {"problem = [\"sphere\"]", "did you mean 'problems'?"},
    {"problems = \"sphere\"", "line 1: the problems must be a list of texts"},
    {"problems = [1]", "line 1: each of the problems must be a text in quotes"},
    {"repeats = 0", "the number of repeats must be a whole number from 1 to 1000000; found 0"},
    {"repeats = 1.5", "must be a whole number"},
    {"seed = -1", "the seed must be a whole number of at least 0"},
    {"starts = \"random\"", "starts must be one of region, own; found 'random'"},
    {"derivative = \"exakt\"", "did you mean 'exact'?"},
    {"gradient_weight = -1", "the gradient weight must be at least 0"},
    {"noise = [\"normal:-0.1\"]", "'normal:-0.1' is no noise"},
    {"placements = [0.5]", "placements must be whole numbers"},
    {"\n\n[stop]\nevaluation = 7", "line 4: [stop] has no 'evaluation'"},
    {"[stop]\nevaluations = 0", "evaluations must be a whole number of at least 1"},
    {"[stop]\nseconds = -1", "seconds must be above 0"},
    {"[targets]\ngaps = [1, 0]", "a gap must be above 0"},
    {"[targets]\ngaps = [1, 1]", "a gap is given twice"},
    {"[targets]\ngaps = [1]\nsmallest = 1", "not both"},
    {"[trace]\nrows = 1", "the rows of a trace must be 0, for none, or from 2 to 100000"},
    {"[methods]\nbfgs = 3", "the method bfgs must be a table"},
    {"[methods]\nbfgs = { memory = [1] }", "the setting memory of bfgs must be a number"},
    {"[best]\nsphere = \"low\"", "the best value of sphere must be a number"},
    {"title = \"open", "line 1"},
};

constexpr const char* full_plan = R"(title = "Which local methods survive a curved valley?"
seed = 7
repeats = 4
problems = ["rosenbrock:dim=2,5", "round-kiln.toml"]
placements = [1, 2]
noise = ["none", "normal:0.01"]
starts = "own"
derivative = "central"
gradient_weight = 0.5

[methods]
zeta = {}
simplex = { use = "nelder-mead", size = "0.5" }
alpha = {}

[stop]
iterations = 300
evaluations = 20000
seconds = 2.5
value_tolerance = 1e-09

[targets]
gaps = [0.1, 0.001]

[best]
"round-kiln.toml" = 12.25

[trace]
rows = 0
)";

} // namespace

TEST_SUITE("plan file") {
  TEST_CASE("what is wrong with a plan is said, and where") {
    for (const auto& [text, says] : wrong_plans) {
      CAPTURE(text);
      CHECK_THROWS_WITH_AS((void)plan_from_toml(text), doctest::Contains(says), InputError);
    }
  }

  TEST_CASE("a plan written and read back is the same plan, methods in the order of the file") {
    const PlanDefinition plan = plan_from_toml(full_plan);
    CHECK(plan_to_toml(plan) == full_plan);
    REQUIRE(plan.methods.size() == 3);
    CHECK(plan.methods[0].label == "zeta");
    CHECK(plan.methods[1].use == "nelder-mead");
    CHECK(plan.stop.seconds == 2.5);
    CHECK(plan.gaps == std::vector{0.1, 0.001});
    CHECK(plan.starts == PlannedStarts::own);
    CHECK(plan.best.at("round-kiln.toml") == 12.25);
  }

  TEST_CASE("what a plan does not say is left out, and read as the default") {
    const PlanDefinition plan = plan_from_toml("problems = [\"sphere\"]\n[methods]\nbfgs = {}\n");
    CHECK(plan_to_toml(plan) == "seed = 1\nrepeats = 21\nproblems = [\"sphere\"]\n\n[methods]\nbfgs = {}\n");
    CHECK(plan.stop.evaluations == 100'000);
    CHECK(plan.trace_rows == 500);
  }

  TEST_CASE("gaps fall, however they are written") {
    const PlanDefinition plan =
        plan_from_toml("problems = [\"sphere\"]\n[methods]\nbfgs = {}\n[targets]\ngaps = [1e-3, 10, 1e-1]\n");
    CHECK(plan.gaps == std::vector<double>{10, 1e-1, 1e-3});
  }
}
