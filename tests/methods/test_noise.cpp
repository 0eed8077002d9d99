// What methods make of values with noise.
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/noise_estimate.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/sanitized.hpp"
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <vector>

using namespace tanzen;

namespace {

/// Median over seeds of the true gap of the reported point.
double median_noisy_gap(const std::string& problem, const Method& by, std::int64_t evaluations) {
  std::vector<double> gaps;
  for (std::uint64_t seed = 1; seed <= 11; ++seed) {
    const Problem noisy = testbed::parse_problem(problem).with_noise_seed(seed);
    gaps.push_back(*run(noisy, by, {.seed = seed, .repeat = 1, .stop = {.evaluations = evaluations}}).gap);
  }
  std::ranges::nth_element(gaps, gaps.begin() + 5);
  return gaps[5];
}

/// Of the last iteration that told it.
double last_of(const Outcome& outcome, const char* column) {
  double last = 0;
  for (const double told : outcome.trace.column(column)) {
    if (!std::isnan(told)) last = told;
  }
  return last;
}

} // namespace

TEST_SUITE("noise") {
  TEST_CASE("its level at a point is estimated from a few values") {
    for (const double level : {1e-1, 1e-3, 1e-6}) {
      int right = 0;
      for (std::uint64_t seed = 1; seed <= 40; ++seed) {
        const Problem noisy =
            testbed::problem("rosenbrock", 4).noisy({.kind = NoiseKind::normal, .level = level}).with_noise_seed(seed);
        const NoiseEstimate seen = estimate_noise(noisy, Vector{{-1.2, 1, 0.5, 2}}, RandomStream(seed, {"test"}));
        CHECK(seen.evaluations <= 45);
        right += seen.found && seen.level > level / 4 && seen.level < 4 * level;
      }
      CAPTURE(level);
      CHECK(right >= 36);
    }
  }

  TEST_CASE("it is found where the value itself is about zero, and of exact values as their rounding") {
    const Problem noisy = testbed::parse_problem("sphere:dim=3,noise=normal:0.01");
    const NoiseEstimate seen = estimate_noise(noisy, Vector::Zero(3), RandomStream(2, {"test"}));
    CHECK(seen.found);
    CHECK(seen.level > 0.0025);
    CHECK(seen.level < 0.04);
    const NoiseEstimate exact =
        estimate_noise(testbed::problem("rosenbrock", 2), Vector{{-1.2, 1}}, RandomStream(2, {"test"}));
    CHECK((!exact.found || exact.level < 1e-12 * 24.2));
    const NoiseEstimate none = estimate_noise(Problem::from_formula("0*x + 3"), Vector{{1}}, RandomStream(2, {"test"}));
    CHECK(none.found);
    CHECK(none.level == 0);
  }

  TEST_CASE("gaps and targets are judged by the value without it") {
    const Problem noisy = testbed::parse_problem("sphere:dim=10,noise=normal:1");
    const Outcome outcome = run(noisy, method("cma-es"),
                                {.seed = 3, .stop = {.evaluations = 5000, .gap = 1e-8}, .milestones = {1e1, 1e-3}});
    CHECK(outcome.status != Status::target); // values below zero are lucky draws
    CHECK(outcome.value < 0);
    CHECK(*outcome.gap == doctest::Approx(noisy.exact().value(outcome.point)));
    CHECK(outcome.milestones.size() == 1);
    const Outcome reached = run(noisy, method("cma-es"), {.seed = 3, .stop = {.evaluations = 5000, .gap = 5}});
    CHECK(reached.status == Status::target);
    CHECK(noisy.exact().value(reached.point) <= 5);
    CHECK(*reached.gap <= 5);
  }

  TEST_CASE("bfgs and lbfgs that bear it come far nearer than those that do not (Berahas, Byrd and Nocedal, 2019)") {
    for (const char* problem : {"sphere:dim=5,noise=normal:0.01", "rosenbrock:dim=2,noise=normal:0.001"}) {
      for (const char* by : {"bfgs", "lbfgs"}) {
        CAPTURE(problem);
        CAPTURE(by);
        const double plain = median_noisy_gap(problem, method(by), 3000);
        const double tolerant = median_noisy_gap(problem, method(by, {{"noise", 0.0}}), 3000);
        CHECK(tolerant < 0.1 * plain);
        CHECK(tolerant < 0.05);
      }
    }
  }

  TEST_CASE("with the level given none is estimated, and exact values are searched as well") {
    const Outcome given =
        run(testbed::problem("rosenbrock", 2), method("bfgs", {{"noise", 1e-12}}), {.stop = {.evaluations = 5000}});
    CHECK(*given.gap < 1e-6);
    CHECK(given.trace.column("noise").back() == 1e-12);
  }

  TEST_CASE("re-evaluation sees how much it decides, and comes nearer for it") {
    const Outcome loud = run(testbed::parse_problem("sphere:dim=5,noise=normal:100"),
                             method("cma-es", {{"reevaluates", true}}), {.stop = {.evaluations = 3000}});
    CHECK(last_of(loud, "averaged") > 10);
    const Outcome quiet =
        run(testbed::problem("sphere", 5), method("cma-es", {{"reevaluates", true}}), {.stop = {.gap = 1e-8}});
    CHECK(quiet.status == Status::target);
    CHECK(last_of(quiet, "averaged") == 1);
    const double plain = median_noisy_gap("ellipsoid:dim=5,noise=normal:1", method("cma-es"), 10'000);
    CHECK(median_noisy_gap("ellipsoid:dim=5,noise=normal:1", method("cma-es", {{"reevaluates", true}}), 10'000) <
          plain);
  }

  TEST_CASE("a surrogate that fits the noise looks for the best of what it predicts, not for a lucky draw") {
    if (testing::is_sanitized) return; // a statistic
    const double plain = median_noisy_gap("branin:noise=normal:5", method("surrogate"), 40);
    const double fitted = median_noisy_gap("branin:noise=normal:5", method("surrogate", {{"noise", true}}), 40);
    CHECK(fitted <= plain);
    CHECK(fitted < 5);
  }
}
