#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/front_archive.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>

using namespace tanzen;

namespace {

/// Points of objective space as they would come, some of them alike.
Matrix coming(Index objectives, Index count, std::uint64_t seed) {
  RandomStream random(seed, {"archive"});
  Matrix points(objectives, count);
  for (double& value : points.reshaped()) value = std::floor(random.uniform() * 30) / 30;
  return points;
}

VectorView view(const Matrix& points, Index k) {
  return {points.col(k).data(), points.rows()};
}

} // namespace

TEST_SUITE("archive of a front") {
  TEST_CASE("it holds what none of all points dominates, once") {
    for (const char* name : {"binh", "dtlz-2:objectives=3", "dtlz-2:objectives=5"}) {
      const Problem problem = testbed::parse_problem(name);
      const Matrix points = coming(problem.parts().objectives, 400, 3);
      FrontArchive archive(problem);
      Index taken = 0;
      for (Index k = 0; k < points.cols(); ++k)
        taken += archive.add(Vector::Constant(problem.dimension(), static_cast<double>(k)), view(points, k)) ? 1 : 0;
      const std::vector<Index> expected = nondominated_points(points);
      REQUIRE(archive.points().size() == expected.size());
      CHECK(taken >= static_cast<Index>(expected.size()));
      for (const FrontPoint& each : archive.points())
        CHECK(std::ranges::any_of(expected, [&](Index k) { return points.col(k) == each.objectives; }));
    }
  }

  TEST_CASE("of two objectives the share is the exact area over the front's, of more it is so to half a percent") {
    for (const char* name : {"zdt-1", "zdt-3", "binh"}) {
      CAPTURE(name);
      const Problem problem = testbed::parse_problem(name);
      const KnownFront& front = *problem.known_front();
      const Vector reference = FrontBox::of(problem)->reference;
      CHECK((reference - front.nadir - 0.1 * (front.nadir - front.ideal)).norm() <= 1e-12 * reference.norm());
      const Matrix few = front.points(20);
      FrontArchive archive(problem);
      for (Index k = 0; k < few.cols(); ++k) archive.add(Vector::Zero(problem.dimension()), view(few, k));
      const double whole = hypervolume(front.points(200'000), reference);
      CHECK(archive.covered() == doctest::Approx(hypervolume(few, reference) / whole).epsilon(2e-5));
    }
    for (const int objectives : {3, 4, 5}) {
      CAPTURE(objectives);
      const Problem problem = testbed::problem("dtlz-1", 0, {{"objectives", objectives}});
      const Matrix few = problem.known_front()->points(120);
      FrontArchive archive(problem);
      for (Index k = 0; k < few.cols(); ++k) archive.add(Vector::Zero(problem.dimension()), view(few, k));
      const Vector reference = FrontBox::of(problem)->reference;
      // Below the plane lies a simplex of side 0.5, and nothing of it is covered.
      double simplex = 1;
      for (int k = 1; k <= objectives; ++k) simplex *= 0.5 / k;
      const double exact = hypervolume(few, reference) / (reference.prod() - simplex);
      CHECK(std::abs(archive.covered() - exact) <= (objectives == 3 ? 1e-3 : 5e-3));
    }
  }

  TEST_CASE("a true front covers all of itself, and no run more") {
    for (const char* name :
         {"zdt-3", "zdt-5", "uf-5", "tanaka", "dtlz-7:objectives=3", "wfg-2:objectives=3", "dtlz-8"}) {
      CAPTURE(name);
      const Problem problem = testbed::parse_problem(name);
      const Matrix dense = problem.known_front()->points(5000);
      FrontArchive archive(problem);
      for (Index k = 0; k < dense.cols(); ++k) archive.add(Vector::Zero(problem.dimension()), view(dense, k));
      CHECK(archive.covered() <= 1);
      CHECK(archive.covered() >= (dense.rows() == 2 ? 0.999 : 0.95));
    }
  }

  TEST_CASE("a gap ends a run, milestones tell when each was reached, and the trace shows what is covered") {
    const Problem problem = testbed::parse_problem("schaffer-parabolas").region(-3, 5).bounds(-3, 5);
    RunOptions options{.seed = 2, .stop = {.evaluations = 3000, .gap = 0.02}, .milestones = {0.5, 0.1, 0.02}};
    const Outcome outcome = run(problem, method("nondominated-sorting"), options);
    CHECK(outcome.status == Status::target);
    CHECK(outcome.converged());
    CHECK(outcome.sense == Sense::maximize);
    CHECK(*outcome.gap <= 0.02);
    CHECK(outcome.value == doctest::Approx(1 - *outcome.gap));
    REQUIRE(outcome.milestones.size() == 3);
    CHECK(outcome.milestones[0][Spent::evaluations] <= outcome.milestones[1][Spent::evaluations]);
    CHECK(outcome.milestones[2][Spent::evaluations] == outcome.counts[Spent::evaluations]);
    const std::vector<double> covered = outcome.trace.column("best_value");
    for (std::size_t k = 1; k < covered.size(); ++k)
      CHECK((std::isnan(covered[k - 1]) || covered[k] >= covered[k - 1]));
    CHECK(covered.back() == outcome.value);
    CHECK_THROWS_WITH_AS((void)run(Problem::from_formula("x^2").with_objective({.name = "b", .text = "(x-1)^2"}),
                                   method("nondominated-sorting"), {.stop = {.gap = 0.1}}),
                         doctest::Contains("true front is known"), ProblemError);
  }

  TEST_CASE("a problem has at most twenty objectives, of the same variables") {
    Problem many = Problem::from_formula("x + y");
    for (int k = 1; k < 20; ++k)
      many = many.with_objective({.name = fmt::format("f{}", k), .text = fmt::format("{}*x - y", k)});
    CHECK(many.objectives().size() == 20);
    CHECK_THROWS_WITH_AS((void)many.with_objective({.name = "more", .text = "x"}),
                         doctest::Contains("at most 20 objectives, not 21"), ProblemError);
    const auto other = make_opaque_function(3, [](const Vector& x) { return x.sum(); });
    CHECK_THROWS_WITH_AS((void)many.with_objectives({{.name = "wide"}}, other),
                         doctest::Contains("works on 3 variables"), ProblemError);
  }

  TEST_CASE("objectives wanted large are turned, and what is only called is measured where its front is known") {
    const auto both = [](const Vector& x, Vector& values) {
      values[0] = x[0];
      values[1] = 1 - x[0] * x[0];
    };
    const std::vector<Objective> senses{{.name = "cost", .sense = Sense::minimize},
                                        {.name = "gain", .sense = Sense::minimize}};
    const Problem called = Problem::from_bundle(make_opaque_function(1, 2, both), senses).bounds(0, 1);
    CHECK(std::isnan(run(called, method("nondominated-sorting"), {.stop = {.evaluations = 300}}).value));
    const Problem known = called.known_front(*testbed::parse_problem("zdt-2").known_front());
    CHECK(run(known, method("nondominated-sorting"), {.stop = {.evaluations = 600}}).value > 0.95);
    CHECK_THROWS_AS((void)called.with_first_objective({}).known_front({}), ProblemError);
    const Problem turned = Problem::from_formula("x")
                               .with_objective({.name = "gain", .sense = Sense::maximize, .text = "x^2"})
                               .bounds(0, 1);
    const Outcome outcome = run(turned, method("nondominated-sorting"), {.stop = {.evaluations = 600}});
    CHECK(outcome.front.back().objectives[1] > 0.9);
    CHECK(outcome.value > 0);
  }
}
