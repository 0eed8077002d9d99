#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/study/sweep.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <atomic>
#include <stdexcept>

using namespace tanzen;

TEST_SUITE("sweeps") {
  TEST_CASE("values are listed, or spaced in equal ratios or equal steps") {
    CHECK(VariedSetting::parse("step=1.02, 0.3").values == std::vector<std::string>{"1.02", "0.3"});
    CHECK(VariedSetting::parse("rule=exact,wolfe").values == std::vector<std::string>{"exact", "wolfe"});
    CHECK(VariedSetting::parse("step=1e-3..1e0:4").values == std::vector<std::string>{"0.001", "0.01", "0.1", "1"});
    CHECK(VariedSetting::parse("a=-1..1:3").values == std::vector<std::string>{"-1", "0", "1"});
    for (const char* wrong : {"step", "step=", "=1", "step=1..2", "step=1..2:1", "step=1..2:2.5", "step=a..b:3"}) {
      CAPTURE(wrong);
      CHECK_THROWS_AS((void)VariedSetting::parse(wrong), InputError);
    }
  }

  TEST_CASE("a sweep's runs are those that would be run alone, in the order asked for") {
    const Problem bowl = testbed::problem("ellipsoid", 2);
    const RunOptions options{.start = Coordinates{3, 1}, .stop = {.iterations = 25, .gradient_tolerance = {}}};
    const auto varied = VariedSetting::parse("step=1e-4..1e-2:9");
    const auto outcomes = sweep_setting(bowl, method("gradient-descent"), varied, options);
    REQUIRE(outcomes.size() == 9);
    for (std::size_t k = 0; k < 9; ++k) {
      const Outcome alone = run(bowl, method("gradient-descent", {{"step", varied.values[k]}}), options);
      CHECK(outcomes[k].last_point == alone.last_point);
      CHECK(outcomes[k].trace.rows() == alone.trace.rows());
    }
    const auto cells = sweep_settings(bowl, method("momentum"), VariedSetting::parse("step=0.001,0.002"),
                                      VariedSetting::parse("momentum=0.1,0.5,0.9"), options);
    REQUIRE(cells.size() == 6);
    const Outcome alone = run(bowl, method("momentum", {{"step", 0.002}, {"momentum", 0.9}}), options);
    CHECK(cells[5].point == alone.last_point);
  }

  TEST_CASE("a wrong value ends the sweep before anything runs") {
    std::atomic<int> calls = 0;
    const Problem counted = Problem::black_box(1, [&](const Vector& x) {
      ++calls;
      return x[0] * x[0];
    });
    CHECK_THROWS_WITH_AS(
        (void)sweep_setting(counted, method("gradient-descent"), VariedSetting::parse("step=0.1,-1"), {}),
        doctest::Contains("must be a number above 0; found '-1'"), InputError);
    CHECK(calls == 0);
  }

  TEST_CASE("an objective that throws ends its own run, not the others") {
    const Problem fragile = Problem::black_box(1, [](const Vector& x) {
      if (x[0] > 4) throw std::runtime_error("the kiln is open");
      return (x[0] - 1) * (x[0] - 1);
    });
    const Matrix starts = Matrix{{0, 5, 2}};
    const auto cells = sweep_starts(fragile, method("nelder-mead"), starts, {});
    CHECK(cells[0].converged);
    CHECK(cells[1].status == Status::failed);
    CHECK(cells[2].converged);
  }

  TEST_CASE("the starts of himmelblau lead to its four minima, whatever the number of threads") {
    const Problem problem = testbed::problem("himmelblau");
    const Matrix starts = latin_hypercube_points(problem.region(), 400, RandomStream(3, {"test"}));
    const auto cells = sweep_starts(problem, method("newton"), starts, {});
    std::vector<int> group_of;
    const auto groups = group_ends(problem, cells, group_of);
    REQUIRE(groups.size() == 4);
    std::size_t all = 0;
    for (const EndGroup& group : groups) {
      all += group.members;
      CHECK(group.value < 1e-12);
    }
    CHECK(all == 400);
    for (std::size_t k = 0; k < cells.size(); ++k) {
      const Vector start = starts.col(static_cast<Index>(k));
      CHECK(cells[k].point == run(problem, method("newton"), {.start = start}).last_point);
    }
  }
}
