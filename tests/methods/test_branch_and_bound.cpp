#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <string>

using namespace tanzen;

namespace {

Outcome proof_of(const Problem& problem, std::int64_t most_boxes = 200'000) {
  return run(problem, method("branch-and-bound", {{"most-boxes", static_cast<double>(most_boxes)}}),
             {.stop = {.seconds = 60}});
}

Problem in(const std::string& formula, double lower, double upper) {
  const Problem problem = Problem::from_formula(formula);
  const Index n = problem.dimension();
  return problem.region(Vector(Vector::Constant(n, lower)), Vector(Vector::Constant(n, upper)));
}

/// Whether a point lies in one of the boxes that hold all minimizers.
bool is_boxed(const Outcome& outcome, const Vector& point) {
  return std::ranges::any_of(outcome.proof->boxes, [&](const Proof::MinimizerBox& box) {
    const Vector room = 1e-9 * point.cwiseAbs().cwiseMax(1.0);
    return (point.array() >= (box.lower - room).array()).all() && (point.array() <= (box.upper + room).array()).all();
  });
}

} // namespace

TEST_SUITE("proofs") {
  TEST_CASE("classics are proved, with all their minimizers and no other box") {
    struct Row {
      const char* problem;
      std::size_t minimizers;
    };
    for (const Row& row : {Row{"rosenbrock", 1}, Row{"himmelblau", 4}, Row{"six-hump-camel", 2}, Row{"branin", 3},
                           Row{"goldstein-price", 1}, Row{"beale", 1}, Row{"rastrigin", 1}, Row{"sphere:dim=5", 1}}) {
      CAPTURE(std::string(row.problem));
      const Problem problem = testbed::parse_problem(row.problem);
      const Outcome outcome = proof_of(problem);
      REQUIRE(outcome.status == Status::proved);
      CHECK(outcome.converged());
      REQUIRE(outcome.proof);
      const double best = *problem.best_known();
      const double room = 1e-8 * std::max(1.0, std::abs(best));
      CHECK(outcome.proof->lower <= best + room);
      CHECK(outcome.proof->upper >= best - room);
      CHECK(outcome.proof->upper - outcome.proof->lower <= 2 * room);
      CHECK(outcome.proof->boxes.size() == row.minimizers);
      for (const KnownMinimum& known : problem.known_minima()) {
        if (known.global && problem.sampling_box().contains(known.point)) CHECK(is_boxed(outcome, known.point));
      }
    }
  }

  TEST_CASE("a box with exactly one minimum is known to have it") {
    const Outcome outcome = proof_of(testbed::problem("rosenbrock", 2));
    REQUIRE(outcome.proof);
    CHECK(outcome.proof->boxes[0].holds == Proof::Holds::one);
    CHECK((outcome.proof->boxes[0].upper - outcome.proof->boxes[0].lower).maxCoeff() < 1e-9);
  }

  TEST_CASE("under a constraint a sum of squares has the minimum of the formula it stands for") {
    const Problem squares = testbed::problem("beale");
    const Problem formula =
        Problem::from_formula("(1.5 - x1*(1 - x2))^2 + (2.25 - x1*(1 - x2^2))^2 + (2.625 - x1*(1 - x2^3))^2")
            .region(squares.sampling_box().lower, squares.sampling_box().upper);
    const Outcome one = proof_of(squares.with_constraint("disc", "x1^2 + x2^2 <= 4"));
    const Outcome other = proof_of(formula.with_constraint("disc", "x1^2 + x2^2 <= 4"));
    REQUIRE(one.status == Status::proved);
    REQUIRE(other.status == Status::proved);
    CHECK(one.value > 0.1);
    CHECK(one.value == doctest::Approx(other.value).epsilon(1e-7));
    CHECK(one.proof->boxes.size() == other.proof->boxes.size());
  }

  TEST_CASE("corners, faces, kinks, jumps, poles and edges of a domain are right") {
    struct Row {
      const char* formula;
      double lower, upper, best;
    };
    for (const Row& row :
         {Row{"x + 2*y", -1, 2, -3},                                                       // a corner
          Row{"(x - 5)^2 + y^2", -1, 2, 9},                                                // a face
          Row{"abs(x - 1) + abs(y + 0.5)", -2, 2, 0},                                      // a kink
          Row{"abs(x) + y^2", -1, 1, 0},                                                   // a kink where boxes are cut
          Row{"max(x^2, (x - 1)^2)", -2, 2, 0.25}, Row{"floor(x) + (x - 0.5)^2", 0, 3, 0}, // on one side of a jump
          Row{"x - floor(x)", -1.5, 1.25, 0},                                              // at jumps
          Row{"if(x < 0.5, x^2 + 1, x - 1)", -1, 1, -0.5}, Row{"sqrt(x)", -1, 4, 0},       // at the edge of the domain
          Row{"-sqrt(4 - x^2)", -3, 3, -2}, Row{"x + 1/x", 0.1, 5, 2}, Row{"1/(x - 2)^2 + x", 0, 1.5, 0.25},
          Row{"(x^2 + y^2)^2", -1, 1.5, 0}, // a singular Hessian
          Row{"cos(x)*cos(y)", -1, 1, std::pow(std::cos(1.0), 2)}, Row{"x^4 - 2*x^2", -2, 2, -1}}) {
      CAPTURE(std::string(row.formula));
      const Outcome outcome = proof_of(in(row.formula, row.lower, row.upper));
      REQUIRE(outcome.status == Status::proved);
      CHECK(outcome.proof->lower <= row.best + 1e-12);
      CHECK(outcome.proof->upper >= row.best - 1e-12);
      CHECK(outcome.proof->upper - outcome.proof->lower <= 2e-8 * std::max(1.0, std::abs(row.best)));
      CHECK(outcome.value == doctest::Approx(row.best).epsilon(1e-7));
      // What was found is among what holds all minimizers, as near as boxes are told.
      const bool is_there = std::ranges::any_of(outcome.proof->boxes, [&](const Proof::MinimizerBox& box) {
        return (outcome.point.array() >= box.lower.array() - 1e-4).all() &&
               (outcome.point.array() <= box.upper.array() + 1e-4).all();
      });
      CHECK(is_there);
    }
  }

  TEST_CASE("a minimizer on the edge that boxes share at a kink or a jump is in one of them") {
    for (const char* formula :
         {"abs(x) + abs(y)", "max(abs(x), abs(y))", "x - floor(x) + y^2", "hypot(x, y)", "cbrt(x^2) + y^2"}) {
      CAPTURE(std::string(formula));
      const Outcome outcome = proof_of(in(formula, -1, 1));
      REQUIRE(outcome.status == Status::proved);
      CHECK(is_boxed(outcome, Vector{{0, 0}}));
    }
  }

  TEST_CASE("two minima whose values differ by one unit in the last place: the lower one is never lost") {
    for (const char* formula : {"min((x - 1)^2 + 1, (x + 1)^2 + 1.0000000000000002)", "(x^2 - 1)^2 + 1 - 1e-16*x"}) {
      CAPTURE(std::string(formula));
      const Outcome outcome = proof_of(in(formula, -3, 3.5));
      REQUIRE(outcome.status == Status::proved);
      CHECK(is_boxed(outcome, Vector{{1}}));
      CHECK(outcome.proof->lower <= 1);
      CHECK(outcome.proof->upper >= 1 - 1e-15);
    }
  }

  TEST_CASE("a limit of time holds although no value is asked for") {
    const Outcome outcome =
        run(testbed::parse_problem("steps:dim=2"), method("branch-and-bound"), {.stop = {.seconds = 0.2}});
    CHECK((outcome.status == Status::time || outcome.status == Status::proved));
  }

  TEST_CASE("what it cannot decide it does not claim") {
    // A plateau, a curve of minima, and more boxes than are allowed.
    for (const char* formula : {"0*x + 0*y + 1", "(x^2 + y^2 - 1)^2"}) {
      CAPTURE(std::string(formula));
      const Outcome outcome = proof_of(in(formula, -1.5, 1.25), 300);
      if (outcome.status == Status::proved)
        CHECK(outcome.proof->lower <= outcome.value);
      else
        CHECK_FALSE(outcome.proof);
    }
    const Outcome many = proof_of(testbed::problem("michalewicz", 10), 300);
    CHECK(many.status == Status::size);
    CHECK_FALSE(many.proof);
    CHECK(many.trace.column("lower_bound").back() <= many.value);
  }

  TEST_CASE("the best of a maximum is proved from above") {
    const Outcome outcome = proof_of(in("9*hours*exp(-0.4*hours)", 0, 20).maximized());
    REQUIRE(outcome.status == Status::proved);
    const double best = 9 / 0.4 / std::exp(1.0);
    CHECK(outcome.proof->lower <= best + 1e-14);
    CHECK(outcome.proof->upper >= best - 1e-14);
    CHECK(outcome.proof->lower <= outcome.proof->upper);
    CHECK(outcome.proof->boxes.size() == 1);
  }

  TEST_CASE("a cubic's least value within an interval is what its derivative's roots and the ends say, 200 times") {
    RandomStream random(6, {"cubics"});
    const int cubics = testing::is_sanitized ? 20 : 200;
    for (int k = 0; k < cubics; ++k) {
      double c[4];
      for (double& each : c) each = std::round(random.uniform(-9, 9));
      const auto value = [&](double x) { return ((c[3] * x + c[2]) * x + c[1]) * x + c[0]; };
      double best = std::min(value(-2), value(3));
      const double discriminant = c[2] * c[2] - 3 * c[3] * c[1];
      if (c[3] != 0 && discriminant >= 0) {
        for (const double sign : {-1.0, 1.0}) {
          const double x = (-c[2] + sign * std::sqrt(discriminant)) / (3 * c[3]);
          if (x > -2 && x < 3) best = std::min(best, value(x));
        }
      } else if (c[3] == 0 && c[2] != 0) {
        const double x = -c[1] / (2 * c[2]);
        if (x > -2 && x < 3) best = std::min(best, value(x));
      }
      const Outcome outcome = proof_of(Problem::from_function(1, [&](const auto& x) {
                                         return ((c[3] * x[0] + c[2]) * x[0] + c[1]) * x[0] + c[0] + 0 * x[0];
                                       }).region(-2, 3));
      CAPTURE(k);
      CAPTURE(outcome.message);
      REQUIRE(outcome.status == Status::proved);
      const double room = 1e-12 * (1 + std::abs(best));
      CHECK(outcome.proof->lower <= best + room);
      CHECK(outcome.proof->upper >= best - room);
    }
  }

  TEST_CASE("what is no formula is refused, with the methods that can") {
    const Problem box = Problem::black_box(2, [](const Vector& x) { return x.squaredNorm(); }).named("box");
    CHECK_THROWS_WITH_AS((void)run(box, method("branch-and-bound")),
                         doctest::Contains("branch-and-bound works on formulas, and box is none"), ProblemError);
    CHECK_THROWS_WITH_AS((void)run(testbed::parse_problem("sphere:noise=normal:0.1"), method("branch-and-bound")),
                         doctest::Contains("works on formulas, and sphere:noise=normal:0.1 has noise"), ProblemError);
  }
}
