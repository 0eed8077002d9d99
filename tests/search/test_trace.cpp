#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

Outcome long_run(std::int64_t iterations, const TracePolicy& policy) {
  const Method descent = method("gradient-descent", {{"step", 1e-4}});
  return run(testbed::problem("rosenbrock"), descent,
             {.stop = {.iterations = iterations, .gradient_tolerance = {}}, .trace = policy});
}

} // namespace

TEST_SUITE("trace") {
  TEST_CASE("every iteration is kept up to the cap") {
    const Trace trace = long_run(500, {}).trace;
    REQUIRE(trace.rows() == 501);
    for (std::size_t row = 0; row < trace.rows(); ++row)
      CHECK(trace.at(row, Trace::iteration) == static_cast<double>(row));
    CHECK(trace.method_columns() == std::vector<std::string>{"step"});
    CHECK(std::isnan(trace.column("step").front()));
    CHECK(trace.column("step").back() == 1e-4);
  }

  TEST_CASE("past the cap the stride doubles, first and last rows stay, and memory is bounded") {
    for (const std::int64_t iterations : {9, 10, 11, 12, 39, 40, 41, 1000, 12345}) {
      CAPTURE(iterations);
      const Trace trace = long_run(iterations, {.most_rows = 10}).trace;
      CHECK(trace.rows() <= 11);
      CHECK(trace.rows() >= 5);
      CHECK(trace.at(0, Trace::iteration) == 0);
      CHECK(trace.at(trace.rows() - 1, Trace::iteration) == static_cast<double>(iterations));
      const double stride = trace.at(1, Trace::iteration);
      for (std::size_t row = 1; row + 1 < trace.rows(); ++row)
        CHECK(trace.at(row, Trace::iteration) == stride * static_cast<double>(row));
    }
  }

  TEST_CASE("a thinned trace holds the same numbers as a whole one") {
    const Trace whole = long_run(1000, {.points = true}).trace,
                thin = long_run(1000, {.stride = 7, .most_rows = 50, .points = true}).trace;
    for (std::size_t row = 0; row < thin.rows(); ++row) {
      const auto same = static_cast<std::size_t>(thin.at(row, Trace::iteration));
      CHECK(thin.at(row, Trace::value) == whole.at(same, Trace::value));
      CHECK(thin.point(row) == whole.point(same));
    }
  }

  TEST_CASE("geometric spacing within few rows spreads them further, and keeps the first and the last") {
    for (const std::size_t most : {std::size_t{2}, std::size_t{20}}) {
      CAPTURE(most);
      const Trace trace =
          long_run(10'000, {.spacing = TracePolicy::Spacing::geometric, .stride = 16, .most_rows = most}).trace;
      CHECK(trace.rows() <= most + 1); // the last one comes on top
      const auto iterations = trace.column("iteration");
      CHECK(iterations.front() == 0);
      CHECK(iterations.back() == 10'000);
      if (most < 20) continue;
      CHECK(trace.rows() >= 8);
      CHECK(iterations[2] < 100); // early rows are not the first to go
    }
  }

  TEST_CASE("geometric spacing keeps ever fewer rows") {
    const Trace trace = long_run(10'000, {.spacing = TracePolicy::Spacing::geometric, .stride = 5}).trace;
    CHECK(trace.rows() < 100);
    CHECK(trace.at(trace.rows() - 1, Trace::iteration) == 10'000);
    for (std::size_t row = 2; row + 1 < trace.rows(); ++row) {
      CHECK(trace.at(row, Trace::iteration) - trace.at(row - 1, Trace::iteration) <=
            1 + trace.at(row - 1, Trace::iteration) / 5);
    }
  }

  TEST_CASE("columns tell what the run loop knows") {
    const Outcome outcome = long_run(50, {.points = true});
    const Trace& trace = outcome.trace;
    CHECK(trace.column("evaluations").back() == static_cast<double>(outcome.counts[Spent::evaluations]));
    CHECK(trace.column("gradients").back() == static_cast<double>(outcome.counts[Spent::gradients]));
    CHECK(trace.column("gradient_norm").front() == doctest::Approx(232.867688).epsilon(1e-8)); // at (-1.2, 1)
    CHECK(trace.column("x1").front() == -1.2);
    for (std::size_t row = 1; row < trace.rows(); ++row) {
      CHECK(trace.at(row, Trace::step_norm) ==
            doctest::Approx((trace.point(row) - trace.point(row - 1)).norm()).epsilon(1e-15));
      CHECK(trace.at(row, Trace::best_value) <= trace.at(row, Trace::value));
      CHECK(trace.at(row, Trace::seconds) >= trace.at(row - 1, Trace::seconds));
    }
    CHECK_THROWS_WITH_AS((void)trace.column("vlaue"), doctest::Contains("did you mean 'value'?"), InputError);
  }
}
