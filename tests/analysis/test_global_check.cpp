#include "tanzen/analysis/global_check.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <string>

using namespace tanzen;

namespace {

GlobalCheck check_of(const Problem& problem, const std::string& name, const RunOptions& options,
                     const StopRules& proof_stop = {}) {
  RunOptions proof;
  proof.stop = proof_stop;
  return check_global(problem, run(problem, standard_methods().parse(name), options), method("branch-and-bound"),
                      proof);
}

} // namespace

TEST_SUITE("whether something is better") {
  TEST_CASE("a global minimum is proved to be one, within what is told") {
    const GlobalCheck check = check_of(testbed::problem("himmelblau"), "nelder-mead", {.start = {0, 0}});
    CHECK(check.verdict == GlobalCheck::Verdict::global);
    REQUIRE(check.proof);
    CHECK(check.proof->boxes.size() == 4);
    CHECK(check.bound <= 0);
    CHECK(testing::contains(to_text(check), "global        nothing within the region is better"));
    // An end that is not quite there: by how much something may be better is no less than it is.
    const Problem bowl = Problem::from_formula("(x - 1)^2 + y^2").region({-2, -2}, {2, 2});
    const GlobalCheck near = check_of(bowl, "gradient-descent:step=0.1", {.start = {0, 0}, .stop = {.iterations = 30}});
    CHECK(near.verdict == GlobalCheck::Verdict::not_global); // 0.8^60 is 1.5e-6
    const GlobalCheck nearer =
        check_of(bowl, "gradient-descent:step=0.1", {.start = {0, 0}, .stop = {.iterations = 33}});
    CHECK(nearer.verdict == GlobalCheck::Verdict::global); // 0.8^66 is 4.02e-7
    CHECK(testing::contains(nearer.reason, "by more than 4.1e-07"));
  }

  TEST_CASE("a local minimum is not, and what is better is told, with or without a proof") {
    const Problem camel = testbed::problem("six-hump-camel");
    const GlobalCheck check = check_of(camel, "bfgs", {.start = {1.6, 0.6}});
    CHECK(check.verdict == GlobalCheck::Verdict::not_global);
    CHECK(check.value == doctest::Approx(-1.0316284534898774).epsilon(1e-12));
    CHECK(camel.value(check.point) == check.value);
    REQUIRE(check.proof);
    // Ten variables are beyond a proof, but something better is soon found.
    const Problem steep = testbed::problem("michalewicz", 10);
    const GlobalCheck open = check_of(steep, "gradient-descent", {.stop = {.evaluations = 50}}, {.iterations = 1});
    CHECK(open.verdict == GlobalCheck::Verdict::not_global);
    CHECK_FALSE(open.proof);
    CHECK(steep.sampling_box().contains(open.point));
    CHECK(testing::contains(open.reason, "within the region no value is below -10"));
    // Nor does a limit that cuts an iteration take away the bound of those before.
    for (const std::int64_t evaluations : {4, 5, 6, 8}) {
      const GlobalCheck cut =
          check_of(steep, "gradient-descent", {.stop = {.evaluations = 50}}, {.evaluations = evaluations});
      CHECK(cut.verdict == GlobalCheck::Verdict::not_global);
      CHECK(std::isfinite(cut.bound));
    }
  }

  TEST_CASE("what is neither proved nor refuted is undecided, with the bound that there is") {
    const Problem steep = testbed::problem("michalewicz", 10);
    const GlobalCheck check =
        check_of(steep, "gradient-descent", {.start = steep.known_minima().front().point, .stop = {.evaluations = 2}},
                 {.iterations = 1});
    CHECK(check.verdict == GlobalCheck::Verdict::undecided);
    CHECK(check.bound < -9.6601517156413);
    CHECK(check.bound >= -10.001);
    const GlobalCheck none =
        check_of(steep, "gradient-descent", {.start = steep.known_minima().front().point, .stop = {.evaluations = 2}},
                 {.seconds = 0});
    CHECK(none.verdict == GlobalCheck::Verdict::undecided);
    CHECK(std::isnan(none.bound));
    CHECK_FALSE(testing::contains(none.reason, "within the region"));
  }

  TEST_CASE("a problem to maximize is told in its own sense") {
    const Problem hills = Problem::from_formula("sin(x) + x/10").maximized().region(-7, 6);
    const GlobalCheck low = check_of(hills, "bfgs", {.start = {-4}});
    CHECK(low.verdict == GlobalCheck::Verdict::not_global);
    CHECK(low.value == doctest::Approx(std::sqrt(0.99) + 0.1 * (M_PI - std::acos(0.1))).epsilon(1e-12));
    CHECK(low.bound >= low.value);
    const GlobalCheck high = check_of(hills, "bfgs", {.start = {1}});
    CHECK(high.verdict == GlobalCheck::Verdict::global);
  }

  TEST_CASE("the region is all that is looked at: what was found outside is not called worse") {
    const Problem slope = Problem::from_formula("x").region(0, 1);
    const GlobalCheck check = check_of(slope, "gradient-descent:step=1", {.start = {0.5}, .stop = {.iterations = 5}});
    CHECK(check.verdict == GlobalCheck::Verdict::global);
    CHECK(testing::contains(check.reason,
                            "nothing within the region is better than what was found, and that lies outside"));
  }

  TEST_CASE("where there is nothing to prove it says why") {
    const Problem noisy = testbed::problem("sphere").noisy(Noise::parse("normal:0.1"));
    CHECK(testing::contains(check_of(noisy, "cma-es", {.stop = {.evaluations = 50}}).reason,
                            "branch-and-bound works on formulas"));
    const Problem far = Problem::from_formula("x^2 + y^2").region({-9, -9}, {9, 9}).with_constraint("far", "x >= 2");
    const GlobalCheck check = check_of(far, "augmented-lagrangian", {.start = {0, 0}, .stop = {.evaluations = 1}});
    CHECK(check.verdict == GlobalCheck::Verdict::undecided);
    CHECK(check.reason == "the run found no feasible point");
  }
}
