#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/statistics/fronts.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/differences.hpp"
#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <fmt/format.h>
#include <numbers>

using namespace tanzen;

namespace {

Vector objectives_at(const Problem& problem, const Vector& x) {
  Vector parts;
  problem.bundle()->worker()->outputs(x, parts);
  return parts.head(problem.parts().objectives);
}

/// By how much of the front's range a point must be raised, in all objectives, to be dominated by some point of it.
double below(const KnownFront& front, const Matrix& dense, const Vector& objectives) {
  return ((dense.colwise() - objectives).array().colwise() / (front.nadir - front.ideal).cwiseMax(1e-300).array())
      .colwise()
      .maxCoeff()
      .minCoeff();
}

/// All of the testbed with several objectives, those with any number of them with several.
std::vector<Problem> all_problems() {
  std::vector<Problem> problems;
  for (const auto& function : testbed::all()) {
    if (!function.objectives) continue;
    problems.push_back(testbed::problem(function.name));
    if (function.options.empty()) continue;
    for (const int count : {2, 3, 5, 10})
      if (count >= function.options[0].least)
        problems.push_back(testbed::problem(function.name, 0, {{"objectives", count}}));
  }
  return problems;
}

bool is_gridded(const Problem& problem) {
  return problem.name().starts_with("viennet");
}

/// Random places with all that measures a distance from the front at its best.
Matrix at_no_distance(const Problem& problem, Index first, double place, bool by_number) {
  Matrix points = uniform_points(problem.region(), 50, RandomStream(4, {problem.name()}));
  for (Index i = first; i < points.rows(); ++i)
    points.row(i).setConstant(by_number ? 2 * place * static_cast<double>(i + 1) : place);
  return points;
}

} // namespace

TEST_SUITE("fronts of the testbed") {
  TEST_CASE("at least 40 functions have several objectives, all but three of them a front for any number of them") {
    int functions = 0, without = 0;
    for (const auto& function : testbed::all()) functions += function.objectives ? 1 : 0;
    CHECK(functions >= 40);
    for (const Problem& problem : all_problems()) {
      CAPTURE(problem.name());
      CHECK(problem.value_sense() == Sense::maximize);
      if (problem.known_front() == nullptr) {
        // Of more objectives these fronts are not what their authors meant, and not stated.
        const bool is_one = problem.name().starts_with("dtlz-5:") || problem.name().starts_with("dtlz-6:") ||
                            problem.name().starts_with("wfg-3:");
        CHECK(is_one);
        ++without;
        continue;
      }
      CHECK(problem.best_value() == 1);
      CHECK_FALSE(problem.known_front()->stated.empty());
    }
    CHECK(without == 7);
  }

  TEST_CASE("the points of a front lie between ideal and nadir, dominate each other nowhere, and are what it covers") {
    for (const Problem& problem : all_problems()) {
      if (problem.known_front() == nullptr) continue;
      CAPTURE(problem.name());
      const KnownFront& front = *problem.known_front();
      const Vector range = front.nadir - front.ideal;
      const Matrix points = front.points(300);
      REQUIRE(points.cols() >= 2);
      CHECK(points.cols() <= 1200);
      CHECK((range.array() > 0).all());
      const double slack = 1e-3; // the ends of pieces are found in steps
      CHECK(((points.colwise() - front.nadir).array().colwise() / range.array()).maxCoeff() <= slack);
      CHECK(((points.colwise() - front.ideal).array().colwise() / range.array()).minCoeff() >= -slack);
      if (!front.covers) {
        CHECK(static_cast<Index>(nondominated_points(points).size()) == points.cols());
        continue;
      }
      for (Index k = 0; k < points.cols(); ++k) {
        CHECK(front.covers(points.col(k) + (is_gridded(problem) ? 3e-3 : 1e-7) * range));
        CHECK_FALSE(front.covers(front.ideal - 1e-6 * range));
      }
    }
  }

  TEST_CASE("no point that a search comes to lies below the front") {
    for (const Problem& problem : all_problems()) {
      if (problem.known_front() == nullptr || problem.parts().objectives > 3) continue;
      CAPTURE(problem.name());
      const KnownFront& front = *problem.known_front();
      const Matrix dense = front.covers ? Matrix() : front.points(1000);
      for (const char* method : {"nondominated-sorting", "direct-multisearch"}) {
        if (!standard_methods().find(method).card().able.equalities && !problem.constraints().empty()) continue;
        const Outcome outcome = run(problem, standard_methods().find(method),
                                    {.seed = 5, .stop = {.evaluations = testing::is_sanitized ? 300 : 2000}});
        CHECK(outcome.value <= 1);
        const Vector range = front.nadir - front.ideal;
        const std::size_t stride = 1 + outcome.front.size() / 40;
        for (std::size_t k = 0; k < outcome.front.size(); k += stride) {
          const Vector& objectives = outcome.front[k].objectives;
          if (front.covers)
            CHECK(front.covers(objectives + (is_gridded(problem) ? 3e-3 : 1e-7) * range));
          else
            CHECK(below(front, dense, objectives) <= 3e-3);
        }
      }
    }
  }

  TEST_CASE("points without a distance from the front lie on it") {
    struct Where {
      const char* problem;
      Index first;
      double place;
      bool by_number = false;
    };
    for (const Where& where : {Where{"zdt-1", 1, 0},
                               {"zdt-2", 1, 0},
                               {"zdt-4", 1, 0},
                               {"zdt-6", 1, 0},
                               {"dtlz-1", 2, 0.5},
                               {"dtlz-2", 2, 0.5},
                               {"dtlz-3", 2, 0.5},
                               {"dtlz-4", 2, 0.5},
                               {"dtlz-5", 2, 0.5},
                               {"dtlz-6", 2, 0},
                               {"dtlz-2:objectives=5", 4, 0.5},
                               {"dtlz-1:objectives=10", 9, 0.5},
                               {"wfg-4", 2, 0.35, true},
                               {"wfg-5", 2, 0.35, true},
                               {"wfg-6", 2, 0.35, true},
                               {"wfg-7", 2, 0.35, true},
                               {"wfg-4:objectives=4", 6, 0.35, true},
                               {"wfg-3", 2, 0.35, true}}) {
      CAPTURE(where.problem);
      const Problem problem = testbed::parse_problem(where.problem);
      const KnownFront& front = *problem.known_front();
      const Vector range = front.nadir - front.ideal;
      const Matrix points = at_no_distance(problem, where.first, where.place, where.by_number);
      const Matrix dense = front.covers ? Matrix() : front.points(1000);
      for (Index k = 0; k < points.cols(); ++k) {
        const Vector f = objectives_at(problem, points.col(k));
        if (front.covers) {
          CHECK(front.covers(f + 1e-6 * range));
          CHECK_FALSE(front.covers(f - 1e-4 * f - 1e-6 * range));
        } else {
          const bool is_waved = std::string_view(where.problem) == "zdt-6"; // its first objective is not the place
          CHECK((is_waved || below(front, dense, f) <= 2e-3));
          CHECK(below(front, dense, f) >= -2e-3);
        }
      }
    }
  }

  TEST_CASE("values by hand from the definitions") {
    const auto at = [](const char* name, Vector x) { return objectives_at(testbed::parse_problem(name), x); };
    const auto is = [](const Vector& f, const Vector& expected) {
      return (f - expected).norm() <= 1e-12 * (1 + expected.norm());
    };
    CHECK(is(at("schaffer-parabolas", Vector{{3}}), Vector{{9, 1}}));
    CHECK(is(at("binh-korn", Vector{{1, 2}}), Vector{{20, 25}}));
    CHECK(is(at("deb-slope", Vector{{0.5, 2}}), Vector{{0.5, 6}}));
    CHECK(is(at("kursawe", Vector{{0, 0, 0}}), Vector{{-20, 0}}));
    CHECK(is(at("viennet-3", Vector{{0, 0}}), Vector{{0, 2 + 1.0 / 27 + 15, -0.1}}));
    CHECK(is(at("zdt-1:dim=3", Vector{{0.25, 1, 0}}), Vector{{0.25, 5.5 - std::sqrt(0.25 * 5.5)}}));
    CHECK(is(at("zdt-2:dim=3", Vector{{0.5, 0, 0}}), Vector{{0.5, 0.75}}));
    CHECK(is(at("zdt-5", Vector::Ones(80)), Vector{{31, 10.0 / 31}}));
    CHECK(is(at("zdt-5", Vector::Zero(80)), Vector{{1, 20}}));
    CHECK(is(at("dtlz-1:dim=3", Vector{{0.5, 0.5, 0.5}}), Vector{{0.125, 0.125, 0.25}}));
    CHECK(is(at("dtlz-2:dim=3", Vector{{0, 0, 1}}), Vector{{1.25, 0, 0}}));
    CHECK(is(at("dtlz-7:dim=3", Vector{{0, 0, 0}}), Vector{{0, 0, 6}}));
    CHECK(is(at("dtlz-9:objectives=2,dim=4", Vector{{1, 1, 0, 0}}), Vector{{2, 0}}));
    CHECK(is(at("uf-1:dim=3", Vector{{0, std::sin(2 * std::numbers::pi / 3), 1}}), Vector{{2, 1}}));
    // At the far corner all distances are 1: what is added to each objective.
    CHECK(at("wfg-4:dim=4", Vector{{2, 4, 6, 8}}).minCoeff() >= 1 - 1e-9);
  }

  TEST_CASE("every gradient of every objective and row is its difference of eighth order") {
    for (const auto& function : testbed::all()) {
      if (!function.objectives) continue;
      const Problem problem = testbed::problem(function.name);
      CAPTURE(function.name);
      const auto worker = problem.bundle()->worker();
      const Matrix points = uniform_points(problem.region(), 4, RandomStream(2, {"front gradients", function.name}));
      Matrix jacobian;
      for (Index k = 0; k < points.cols(); ++k) {
        const Vector x = points.col(k);
        worker->jacobian(x, jacobian);
        for (Index row = 1; row < jacobian.rows(); ++row) {
          const auto value = [&](const Vector& p) {
            Vector parts;
            worker->outputs(p, parts);
            return parts[row];
          };
          const Index i = (3 * k + row) % x.size();
          const auto slope = testing::eighth_order_difference(value, x, i);
          const double allowed = 1e-6 * (1 + jacobian.row(row).norm()) + 10 * slope.error;
          CHECK(std::abs(jacobian(row, i) - slope.value) <= allowed);
        }
      }
    }
  }

  TEST_CASE("options that cannot be say what would be right, and a bias moves the front along") {
    const auto refused = [](const char* specification, const char* says) {
      CAPTURE(specification);
      CHECK_THROWS_WITH_AS((void)testbed::parse_problem(specification), doctest::Contains(says), InputError);
    };
    refused("dtlz-2:objectives=11", "must be at most 10");
    refused("dtlz-2:objectives=1", "must be at least 2");
    refused("dtlz-2:objectives=2.5", "must be a whole number");
    refused("dtlz-2:objectives=8,dim=5", "needs at least 8 variables, not 5");
    refused("dtlz-8:objectives=2", "must be at least 3");
    refused("wfg-2:dim=5", "an even number");
    CHECK(testbed::parse_problem("dtlz-2:objectives=5").dimension() == 14);
    CHECK(testbed::parse_problem("dtlz-2:objectives=5").name() == "dtlz-2:objectives=5");
    const auto plain = testbed::parse_problem("binh").known_front(),
               moved = testbed::parse_problem("binh:bias=3,shift=1").known_front();
    REQUIRE(moved);
    CHECK(moved->ideal[0] == plain->ideal[0] + 3);
    CHECK(moved->points(10).row(0).maxCoeff() == doctest::Approx(plain->points(10).row(0).maxCoeff() + 3));
    CHECK(testbed::problem("binh").with_constraint("more", "x1 >= 0").known_front() == nullptr);
  }
}
