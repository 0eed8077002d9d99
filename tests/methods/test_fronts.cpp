#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/statistics/fronts.hpp"
#include "tanzen/statistics/summaries.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <functional>

using namespace tanzen;

namespace {

/// The median over repeats of the share of the true front's volume that a run leaves uncovered.
double median_gap(const Problem& problem, const std::string& with, std::int64_t evaluations, std::uint64_t repeats) {
  std::vector<double> gaps;
  for (std::uint64_t repeat = 1; repeat <= repeats; ++repeat)
    gaps.push_back(*run(problem, standard_methods().parse(with),
                        {.seed = 1, .repeat = repeat, .stop = {.evaluations = evaluations}})
                        .gap);
  return median(gaps);
}

struct LastPopulation {
  Matrix points;
  Outcome outcome;
};

LastPopulation last_population(const Problem& problem, const Method& method, const StopRules& stop) {
  LastPopulation last;
  RunOptions options{.seed = 3, .stop = stop};
  options.observer = [&](const Progress& progress) {
    if (progress.details != nullptr && progress.details->population() != nullptr)
      last.points = *progress.details->population();
    return Watch::go_on;
  };
  last.outcome = run(problem, method, options);
  return last;
}

std::vector<std::string> front_methods() {
  std::vector<std::string> names;
  for (const Method& method : standard_methods().all())
    if (method.card().family == "fronts") names.push_back(method.name());
  return names;
}

} // namespace

TEST_SUITE("methods for fronts") {
  TEST_CASE("the continuous functions of 2000: medians of the gap after 25,000 evaluations" *
            doctest::skip(testing::is_sanitized)) {
    // 21 repeats: tanzen compare zdt-1 zdt-2 zdt-3 zdt-4 zdt-6 --with ... --evaluations 25000. Deb et al. (2002) report
    // convergence 0.033, 0.072, 0.115, 0.513, 0.297 for the first of these methods, in another measure.
    struct Bar {
      const char* problem;
      const char* method;
      double most;
    };
    for (const Bar& bar : {Bar{"zdt-1", "nondominated-sorting", 0.01},
                           {"zdt-2", "nondominated-sorting", 0.01},
                           {"zdt-3", "nondominated-sorting", 0.01},
                           {"zdt-4", "nondominated-sorting", 0.03},
                           {"zdt-6", "nondominated-sorting", 0.03},
                           {"zdt-1", "decomposition", 0.01},
                           {"zdt-2", "decomposition", 0.01},
                           {"zdt-3", "decomposition", 0.01},
                           {"zdt-6", "decomposition", 0.03},
                           {"zdt-1", "hypervolume-selection", 0.006}}) {
      CAPTURE(bar.problem);
      CAPTURE(bar.method);
      CHECK(median_gap(testbed::parse_problem(bar.problem), bar.method, 25'000, 5) <= bar.most);
    }
  }

  TEST_CASE("three objectives of 2005 by reference directions after 50,000 evaluations" *
            doctest::skip(testing::is_sanitized)) {
    for (const char* name : {"dtlz-1", "dtlz-2", "dtlz-4"}) {
      CAPTURE(name);
      CHECK(median_gap(testbed::parse_problem(name), "reference-points", 50'000, 3) <= 0.04);
    }
  }

  TEST_CASE("members by reference directions lie where the directions meet a sphere") {
    const Problem problem = testbed::parse_problem("dtlz-2");
    const LastPopulation last = last_population(problem, method("reference-points"), {.evaluations = 20'000});
    Matrix parts;
    problem.bundle()->worker()->outputs(last.points, parts);
    Matrix directions = simplex_lattice(3, 12);
    directions.colwise().normalize();
    REQUIRE(directions.cols() == 91);
    REQUIRE(parts.cols() == 92);
    Index met = 0;
    for (Index k = 0; k < directions.cols(); ++k) {
      const Vector along = (directions.col(k).transpose() * parts.topRows(3)).transpose();
      met +=
          (along.array() / parts.topRows(3).colwise().norm().transpose().array()).maxCoeff() > std::cos(0.05) ? 1 : 0;
    }
    CHECK(met >= 85);
  }

  TEST_CASE("every method covers the easy fronts, with two and with three objectives") {
    for (const std::string& name : front_methods()) {
      CAPTURE(name);
      for (const char* problem : {"viennet-1", "binh", "schaffer-parabolas"}) {
        if (testing::is_sanitized && std::string_view(problem) != "viennet-1") continue; // a statistic
        CAPTURE(problem);
        // Its least step is a part of the region, of which that front is a thousandth.
        if (name == "direct-multisearch" && std::string_view(problem) == "schaffer-parabolas") continue;
        const Outcome outcome = run(testbed::parse_problem(problem), standard_methods().find(name),
                                    {.seed = 4, .stop = {.evaluations = 5000}});
        CHECK(outcome.value >= (outcome.objectives.size() == 2 ? 0.97 : 0.9));
      }
    }
  }

  TEST_CASE("constrained fronts are feasible to the last point, and near the true ones") {
    if (testing::is_sanitized) return; // each method and each problem are run elsewhere
    for (const std::string& name : front_methods()) {
      for (const char* problem_name :
           {"binh-korn", "tanaka", "srinivas-deb", "deb-slope", "belegundu", "kita", "osyczka-kundu", "dtlz-8"}) {
        CAPTURE(name);
        CAPTURE(problem_name);
        const Problem problem = testbed::parse_problem(problem_name);
        const Outcome outcome = run(problem, standard_methods().find(name), {.seed = 4, .stop = {.evaluations = 4000}});
        REQUIRE_FALSE(outcome.front.empty());
        for (const FrontPoint& each : outcome.front) {
          CHECK(problem.violation(each.point) <= 1e-6);
          Vector parts;
          problem.bundle()->worker()->outputs(each.point, parts);
          CHECK(parts.head(each.objectives.size()) == each.objectives);
        }
      }
    }
  }

  TEST_CASE("limits on an objective with a quadratic method inside: 50 points that are exact to 1e-6") {
    struct Exact {
      const char* problem;
      std::function<double(double first)> second;
    };
    const auto bell = [](double first) {
      // f1 = 1 - exp(-(t - 1)^2) with t from -1 to 1.
      const double t = 1 - std::sqrt(-std::log(1 - first));
      return 1 - std::exp(-(t + 1) * (t + 1));
    };
    for (const Exact& exact :
         {Exact{"binh", [](double f) { return 2 * std::pow(5 - std::sqrt(f / 2), 2); }},
          Exact{"schaffer-parabolas", [](double f) { return std::pow(2 - std::sqrt(f), 2); }},
          Exact{"valenzuela-2", [](double f) { return std::pow(f + 2, 2) - 7; }}, Exact{"fonseca-fleming", bell},
          Exact{"binh-korn", [](double f) {
                  return f <= 72 ? 2 * std::pow(5 - std::sqrt(f / 8), 2) : 4 + std::pow(5 - std::sqrt((f - 36) / 4), 2);
                }}}) {
      CAPTURE(exact.problem);
      const Problem problem = testbed::parse_problem(exact.problem);
      const Vector range = problem.known_front()->nadir - problem.known_front()->ideal;
      for (const char* name : {"epsilon-constraint", "boundary-intersection", "chebyshev"}) {
        CAPTURE(name);
        const LastPopulation last =
            last_population(problem, method(name, {{"local", "sequential-quadratic"}}), {.evaluations = 100'000});
        CHECK(last.outcome.status == Status::method);
        Matrix parts;
        problem.bundle()->worker()->outputs(last.points, parts);
        REQUIRE(parts.cols() >= 50);
        for (Index k = 0; k < parts.cols(); ++k)
          CHECK(std::abs(parts(1, k) - exact.second(parts(0, k))) <= 1e-6 * range[1]);
        // Spread over the whole front: no gap of more than a fifth of it.
        CHECK(last.outcome.value >= 0.95);
        CHECK(last.outcome.counts[Spent::evaluations] <= 4000);
      }
    }
  }

  TEST_CASE("a local method without derivatives serves too, and one that cannot keep limits is refused") {
    const Problem binh = testbed::parse_problem("binh");
    CHECK(run(binh, method("weighted-sum", {{"local", "nelder-mead"}, {"points", 10}}), {.seed = 1}).value > 0.85);
    CHECK(run(binh, method("epsilon-constraint", {{"local", "linear-model"}, {"points", 10}}), {.seed = 1}).value >
          0.85);
    CHECK_THROWS_WITH_AS((void)run(binh, method("epsilon-constraint", {{"local", "nelder-mead"}}), {.seed = 1}),
                         doctest::Contains("nelder-mead cannot keep constraints"), ProblemError);
  }

  TEST_CASE("the unit of an objective changes no member of a population") {
    // A power of two, so that not even rounding differs.
    const auto in_units = [](double unit) {
      return Problem::from_function(2, [](const auto& x) { return pow(x[0], 2) + pow(x[1], 2); })
          .with_objectives(
              {{.name = "b"}},
              Expression::traced(2, [unit](const auto& x) { return unit * (pow(x[0] - 5, 2) + pow(x[1] - 5, 2)); }))
          .bounds({-5, -5}, {10, 10});
    };
    for (const char* name : {"nondominated-sorting", "reference-points", "decomposition", "hypervolume-selection",
                             "generalized-differential", "direct-multisearch"}) {
      CAPTURE(name);
      const Matrix one = last_population(in_units(1), method(name), {.evaluations = 1500}).points;
      const Matrix other = last_population(in_units(1024), method(name), {.evaluations = 1500}).points;
      CHECK(one == other);
    }
  }

  TEST_CASE("where one point is best in everything a scalarization ends with it, and a population gathers there") {
    const Problem agreed = Problem::from_formula("x^2 + y^2")
                               .with_objective({.name = "also", .text = "2*x^2 + 3*y^2"})
                               .bounds({-3, -3}, {4, 4});
    for (const char* name : {"weighted-sum", "epsilon-constraint", "chebyshev", "boundary-intersection"}) {
      CAPTURE(name);
      const Outcome outcome = run(agreed, method(name), {.seed = 2});
      CHECK(is_settled(outcome.status));
      CHECK(outcome.front.front().objectives.norm() <= 1e-8);
      CHECK(outcome.counts[Spent::evaluations] <= 2000);
    }
    for (const char* name : {"nondominated-sorting", "decomposition", "hypervolume-selection", "reference-points"}) {
      CAPTURE(name);
      const Outcome outcome = run(agreed, method(name), {.seed = 2, .stop = {.evaluations = 4000}});
      CHECK(outcome.front.front().objectives.norm() <= 1e-2);
    }
  }

  TEST_CASE("each aggregation of a decomposition, and children of differences, cover a front") {
    for (const char* form : {"decomposition:by=boundary", "decomposition:by=sum", "decomposition:children=differences",
                             "decomposition:population=40,neighbours=8", "reference-points:parts=30,population=40"}) {
      CAPTURE(form);
      CHECK(run(testbed::parse_problem("binh"), standard_methods().parse(form),
                {.seed = 3, .stop = {.evaluations = 5000}})
                .value > 0.98);
    }
  }

  TEST_CASE("many objectives: directions in two layers, each run within the simplex that they span") {
    const Problem problem = testbed::parse_problem("dtlz-1:objectives=8");
    const LastPopulation last = last_population(problem, method("reference-points"), {.evaluations = 2000});
    // C(10, 3) corners and steps of the outer layer and C(9, 2) of the inner one, filled up to a multiple of four.
    CHECK(last.points.cols() == 156);
    CHECK(last.outcome.front.size() >= 100);
    CHECK_THROWS_WITH_AS(
        (void)run(problem, method("reference-points", {{"parts", 100}}), {.stop = {.evaluations = 100}}),
        doctest::Contains("at most 100000 serve"), InputError);
  }

  TEST_CASE("gradients of a part are one sweep each, whatever the number of objectives") {
    const Outcome outcome = run(testbed::parse_problem("binh"), method("weighted-sum", {{"points", 10}}), {.seed = 3});
    // A weighted sum needs the slope of the sum alone.
    CHECK(outcome.counts[Spent::gradients] <= outcome.counts[Spent::evaluations]);
  }

  TEST_CASE("a sum of weights finds nothing in a hollow, where directions do") {
    const Problem hollow = testbed::parse_problem("fonseca-fleming");
    CHECK(run(hollow, method("weighted-sum"), {.seed = 1}).value < 0.8);
    CHECK(run(hollow, method("chebyshev"), {.seed = 1}).value > 0.97);
  }

  TEST_CASE("a pattern search around nondominated points draws nothing at random, and ends by itself") {
    const Problem problem = testbed::parse_problem("binh");
    const Outcome one = run(problem, method("direct-multisearch"),
                            {.seed = 1, .start = Coordinates{3, 1}, .stop = {.evaluations = 200'000}});
    const Outcome other = run(problem, method("direct-multisearch"),
                              {.seed = 2, .start = Coordinates{3, 1}, .stop = {.evaluations = 200'000}});
    CHECK(one.status == Status::method);
    CHECK(one.value == other.value);
    CHECK(one.value > 0.99);
  }
}
