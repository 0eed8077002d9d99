#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/allocations.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

TEST_SUITE("every method of the catalogue") {
  TEST_CASE("stays within bounds to the last bit, also where the minimum is on them") {
    for (const Method& each : standard_methods().all()) {
      if (each.card().bounds.empty()) continue;
      CAPTURE(each.name());
      const Index n = std::min<Index>(3, each.card().most_variables);
      const Vector wanted = Vector{{0.05, 0.3, 0.9}}.head(n);
      std::int64_t outside = 0;
      const Problem fenced = Problem::black_box(n, [&](const Vector& x) {
                               outside += (x.array() < 0.1).any() || (x.array() > 0.7).any() ? 1 : 0;
                               return (x - wanted).squaredNorm();
                             }).bounds(Vector(Vector::Constant(n, 0.1)), Vector(Vector::Constant(n, 0.7)));
      const double best = n == 1 ? 0.0025 : 0.0425;
      const Outcome outcome = run(fenced, each, {.stop = {.evaluations = 9000, .target = best + 1e-6}});
      CHECK(outside == 0);
      CHECK(outcome.status == Status::target);
    }
  }

  TEST_CASE("keeps its limit, repeats bit for bit, and has finite columns") {
    for (const Method& each : standard_methods().all()) {
      for (const Index n : {Index{1}, Index{2}, Index{100}}) {
        if (n > each.card().most_variables) continue;
        CAPTURE(each.name());
        CAPTURE(n);
        const Problem problem = testbed::problem("rastrigin", n);
        const RunOptions options{.seed = 4, .repeat = 1, .stop = {.evaluations = 700}, .trace = {.points = true}};
        const Outcome a = run(problem, each, options), b = run(problem, each, options);
        CHECK(a.counts.evaluations <= 700);
        CHECK(a.point == b.point);
        REQUIRE(a.trace.rows() == b.trace.rows());
        for (std::size_t row = 0; row < a.trace.rows(); ++row) {
          for (std::size_t k = 0; k < a.trace.row(row).size(); ++k) {
            const double x = a.trace.at(row, k), y = b.trace.at(row, k);
            CHECK((k == Trace::seconds || x == y || (std::isnan(x) && std::isnan(y))));
            CHECK_FALSE(std::isinf(x));
          }
        }
      }
    }
  }

  TEST_CASE("survives a function that is mostly no number, a plateau and a constant") {
    for (const Method& each : standard_methods().all()) {
      CAPTURE(each.name());
      const Index n = std::min<Index>(2, each.card().most_variables);
      const Problem holed =
          Problem::black_box(n, [](const Vector& x) { return x[0] * x.sum() < x[0] * x[0] ? NAN : x.squaredNorm(); });
      const Problem steps = Problem::black_box(n, [](const Vector& x) { return std::floor(x.norm()); });
      const Problem constant = Problem::from_function(n, [](const auto& x) { return 0 * x[0] + 3.0; });
      const Vector start = Vector{{3, 2}}.head(n);
      for (const Problem& problem : {holed, steps, constant}) {
        const Outcome outcome = run(problem, each, {.start = start, .stop = {.evaluations = 3000}});
        CHECK(outcome.status != Status::failed);
        CHECK(outcome.value <= problem.value(start));
      }
    }
  }

  TEST_CASE("allocates nothing in an iteration once it is under way") {
    for (const Method& each : standard_methods().all()) {
      CAPTURE(each.name());
      const Index n = std::min<Index>(10, each.card().most_variables);
      const Problem problem = testbed::problem("styblinski-tang", n);
      Evaluator evaluate(problem, {}, DerivativeMode::automatic);
      const Vector start = Vector::LinSpaced(n, 0.5, 4);
      Search search =
          each.search(evaluate, {.point = start, .value = evaluate(start), .random = RandomStream(1, {"test"})});
      for (int warming = 0; warming < 3 && search.next(); ++warming) {
      }
      for (int k = 0; k < 20; ++k) {
        CAPTURE(k);
        const std::int64_t before = testing::allocations();
        const bool goes_on = search.next();
        CHECK(testing::allocations() == before);
        if (!goes_on || !search.iteration().finished().empty()) break;
      }
    }
  }
}
