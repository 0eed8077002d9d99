#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "../../src/methods/direct/interpolation_model.hpp"
#include "support/successes.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <vector>

using namespace tanzen;
using testing::repeat;

namespace {

Outcome solve(const Problem& problem, const char* by, const StopRules& stop, const Coordinates& start) {
  return run(problem, standard_methods().parse(by), {.start = start, .stop = stop, .trace = {.points = true}});
}

} // namespace

TEST_SUITE("derivative-free methods") {
  TEST_CASE("quadratic models need at most 200 evaluations on the curved valley") {
    const Outcome outcome = solve(testbed::problem("rosenbrock"), "quadratic-model", {.gap = 1e-8}, {-1.2, 1});
    CHECK(outcome.status == Status::target);
    CHECK(outcome.counts[Spent::evaluations] <= 200);
  }

  TEST_CASE("quadratic models need at most 4,000 evaluations on a chained valley of 20 variables") {
    // The valley has a second minimum, of value 3.99 with its first coordinate near -1; these starts lie on this side.
    for (const auto& [first, last] : {std::pair{0.0, 0.0}, {-0.5, 0.5}, {0.5, -0.5}, {3.0, 3.0}}) {
      CAPTURE(first);
      const Outcome outcome = solve(testbed::problem("rosenbrock", 20), "quadratic-model", {.gap = 1e-8},
                                    Vector(Vector::LinSpaced(20, first, last)));
      CHECK(outcome.status == Status::target);
      CHECK(outcome.counts[Spent::evaluations] <= 4000);
    }
  }

  TEST_CASE("from the usual start of that valley they end in one of its two minima, by rounding alone") {
    Vector start = Vector::Ones(20);
    for (Index i = 0; i < 20; i += 2) start[i] = -1.2;
    for (int k = 0; k < 5; ++k) {
      const Outcome outcome =
          solve(testbed::problem("rosenbrock", 20), "quadratic-model", {.gap = 1e-8}, Vector((1 + 1e-13 * k) * start));
      const bool is_second = std::abs(outcome.value - 3.98662385) < 1e-6;
      CHECK((outcome.status == Status::target || (outcome.status == Status::method && is_second)));
      CHECK(outcome.counts[Spent::evaluations] <= 4000);
    }
  }

  TEST_CASE("quadratic models end on the bounds where the minimum is") {
    // The valley cut at x1 <= 0.5: the minimum is at (0.5, 0.25), its value (1 - 0.5)^2.
    const Problem cut = Problem::from_formula("100*(y - x^2)^2 + (1 - x)^2").bounds({-2, -2}, {0.5, 2});
    const Outcome outcome = solve(cut, "quadratic-model", {.evaluations = 400, .target = 0.25 + 1e-10}, {-1.2, 1});
    CHECK(outcome.status == Status::target);
    CHECK(outcome.point[0] == 0.5);
    // Ten variables, every other one at a bound.
    const Problem many = Problem::from_function(10, [](const auto& x) {
                           Expr sum;
                           for (Index i = 0; i < 10; ++i)
                             sum += double(i + 1) * pow(x[i] - (i % 2 == 0 ? 2.0 : 0.3), 2);
                           return sum;
                         }).bounds(Vector(Vector::Constant(10, -1)), Vector(Vector::Constant(10, 1)));
    const Outcome corner =
        solve(many, "quadratic-model", {.evaluations = 1000, .target = 25 + 1e-8}, Vector(Vector::Zero(10)));
    CHECK(corner.status == Status::target);
    for (Index i = 0; i < 10; i += 2) CHECK(corner.point[i] == 1.0);
  }

  TEST_CASE("the interpolation model goes through its values, and its inverse stays one through many updates") {
    const Index n = 3, m = 2 * n + 1;
    methods::InterpolationModel model(n, m);
    Matrix points(n, m);
    Vector values(m);
    const auto f = [](const Vector& x) { return std::exp(0.3 * x[0]) + x[1] * x[1] + std::sin(x[0] * x[2]); };
    RandomStream random(5, {"test"});
    for (Index k = 0; k < m; ++k) {
      Vector x(n);
      random.fill_normal(x);
      points.col(k) = x;
      values[k] = f(x);
    }
    model.begin(points, values);
    Vector step(n), x(n);
    for (int update = 0; update < 40; ++update) {
      random.fill_normal(x);
      step = x - model.best_point();
      model.consider(step);
      Index chosen = 0;
      double most = 0;
      for (Index t = 0; t < m; ++t) {
        if (t == model.best() || std::abs(model.denominator(t)) <= most) continue;
        most = std::abs(model.denominator(t));
        chosen = t;
      }
      model.replace(chosen, x, f(x));
    }
    // Each point's change from the best one, as the model says and as it was.
    for (Index t = 0; t < m; ++t) {
      step = model.points().col(t) - model.best_point();
      model.consider(step);
      CHECK(model.predicted_change() == doctest::Approx(model.value(t) - model.best_value()).epsilon(1e-7));
    }
  }

  TEST_CASE("of a quadratic the interpolation model knows all once it has as many values as it has coefficients") {
    // Powell, 2004: minimum-change updates lose nothing that earlier values told.
    const Outcome outcome =
        solve(testbed::problem("sphere", 6), "quadratic-model", {.gap = 1e-20}, Vector(Vector::Constant(6, 3)));
    CHECK(outcome.counts[Spent::evaluations] <= 2 * 6 + 1 + 12);
  }

  TEST_CASE("the compass goes to the first better neighbour and halves its step where there is none") {
    // From (1, 0) on a sphere, step 1: x - 1 is better; then all four are worse and the step is halved.
    const Problem bowl = Problem::from_formula("2*x^2 + 0.7*y^2").region({-5, -5}, {5, 5});
    const Outcome outcome = solve(bowl, "pattern-search:form=compass,step=0.1", {.iterations = 2}, {1, 0});
    CHECK(outcome.last_point == Vector{{0, 0}});
    CHECK(outcome.trace.column("step").back() == 0.05);
    CHECK(outcome.counts[Spent::evaluations] == 1 + 2 + 4);
  }

  TEST_CASE("a pattern move of Hooke and Jeeves doubles the progress") {
    const Problem slope = Problem::from_formula("-x").region(0, 10);
    const Outcome outcome = solve(slope, "pattern-search:step=0.1", {.iterations = 3}, {0});
    // Bases 1, then from the pattern 2 on to 3, then from 5 on to 6.
    CHECK(outcome.last_point[0] == 6);
  }

  TEST_CASE("conjugate directions end on a quadratic of n variables after a few more than n iterations") {
    const Outcome outcome = solve(testbed::parse_problem("ellipsoid:dim=5,condition=100,rotate=3"),
                                  "powell:tolerance=1e-8", {.gap = 1e-10}, Vector(Vector::LinSpaced(5, 1, 3)));
    CHECK(outcome.status == Status::target);
    CHECK(outcome.iterations <= 2 * 5 + 2); // his criterion keeps some directions longer
  }

  TEST_CASE("Rosenbrock's search solves the valley that it was made for") {
    const Outcome outcome = solve(testbed::problem("rosenbrock"), "rosenbrock-rotation", {.gap = 1e-8}, {-1.2, 1});
    CHECK(outcome.status == Status::target);
    CHECK(outcome.counts[Spent::evaluations] <= 400); // 200 steps came to 1e-6 in the paper
  }

  TEST_CASE("mesh adaptive search polls on the mesh, in directions that are orthogonal to the last bit") {
    // From the minimum every poll fails, so each has all of its 2 n points, and the frame is halved after it.
    constexpr Index n = 4;
    std::vector<Vector> polled;
    const Problem bowl = Problem::from_formula("a^2 + b^2 + c^2 + d^2")
                             .region(Vector(Vector::Constant(n, -0.5)), Vector(Vector::Constant(n, 0.5)))
                             .observed([&](const Vector& x, double) { polled.push_back(x); });
    constexpr Index polls = 12;
    (void)run(bowl, standard_methods().parse("mesh-adaptive:step=0.25,directions=all,models=false"),
              {.start = Coordinates(Vector(Vector::Zero(n))), .stop = {.iterations = polls}});
    REQUIRE(static_cast<Index>(polled.size()) == 1 + 2 * n * polls);
    double frame = 0.25, steps = 1; // the frame is so many meshes wide
    for (Index k = 0; k < polls; ++k, frame /= 2, steps *= 2) {
      CAPTURE(k);
      Matrix points(n, 2 * n);
      for (Index j = 0; j < 2 * n; ++j) points.col(j) = polled[static_cast<std::size_t>(1 + 2 * n * k + j)] / frame;
      const Matrix meshes = points * steps;
      CHECK(meshes == meshes.array().round().matrix());
      CHECK(points.cwiseAbs().maxCoeff() <= 1);
      CHECK(points.rowwise().sum() == Vector::Zero(n)); // each with its opposite
      const Matrix gram = points.transpose() * points;
      for (Index i = 0; i < 2 * n; ++i) {
        CHECK((gram.row(i).array() != 0).count() == 2); // itself and its opposite
        CHECK(gram(i, i) == gram(0, 0));
      }
    }
  }

  TEST_CASE("mesh adaptive search leaves a kink that the compass is caught in") {
    // On the crease y = x every step along a coordinate rises.
    const Problem crease = Problem::from_formula("2*abs(x - y) + x + y").bounds({-1, -1}, {2, 2});
    const Outcome caught = solve(crease, "pattern-search:form=compass", {.evaluations = 3000}, {1, 1});
    const Outcome free = solve(crease, "mesh-adaptive", {.evaluations = 3000}, {1, 1});
    CHECK(caught.value == 2);
    CHECK(free.value < -1.9);
  }

  TEST_CASE("implicit filtering does not see ripples that a local search is caught in") {
    const Problem rippled = Problem::from_formula("x*x + y*y + 0.1*sin(60*x)*sin(60*y)").region({-2, -2}, {2, 2});
    int filtered = 0, local = 0;
    for (std::uint64_t repeat = 1; repeat <= 15; ++repeat) {
      const RunOptions options{.repeat = repeat, .stop = {.evaluations = 500}};
      filtered += run(rippled, method("implicit-filtering"), options).value < 0.05 ? 1 : 0;
      local += run(rippled, method("bfgs"), options).value < 0.05 ? 1 : 0;
    }
    CHECK(filtered >= 13);
    CHECK(local <= 7);
  }

  TEST_CASE("simultaneous perturbation comes near under noise that drowns differences") {
    const Problem noisy = testbed::parse_problem("sphere:dim=20,noise=normal:0.1");
    const Outcome outcome = solve(noisy, "spsa:step=0.02", {.evaluations = 9000}, Vector(Vector::Constant(20, 3)));
    CHECK(outcome.last_point.norm() < 0.5); // it began at 13.4
  }

  TEST_CASE("a simplex that collapses where there is no minimum goes on after a restart") {
    // The function of McKinnon, 1998, with tau = 2, theta = 6, phi = 60. Each new simplex begins where the last one
    // collapsed, and the first that finds nothing better is the last.
    const Problem trap = Problem::from_formula("if(x <= 0, 6*60*abs(x)^2, 6*x^2) + y + y^2").region({-2, -2}, {2, 2});
    const auto restarted = [&](Index restarts) {
      return run(trap, method("nelder-mead", {{"adaptive", false}, {"restarts", restarts}}),
                 {.start = Coordinates{0, 0}, .stop = {.evaluations = 5000}});
    };
    CHECK(restarted(5).value == doctest::Approx(-0.25).epsilon(1e-8));
    CHECK(restarted(5).counts[Spent::evaluations] > restarted(0).counts[Spent::evaluations]);
    CHECK(restarted(5).trace.column("restart").back() >= 1);
  }

  TEST_CASE("hill climbing ends where no neighbour is better, with a step too short to matter") {
    const Outcome outcome = solve(testbed::problem("sphere", 3), "hill-climb", {}, {2, -1, 3});
    CHECK(outcome.status == Status::method);
    CHECK(outcome.value < 1e-12);
    CHECK(outcome.trace.column("step").back() < 1e-10);
  }
}
