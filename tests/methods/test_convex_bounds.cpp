// Quadratic problems, whose minima can be found face by face, against what branch and bound proves of them.
#include "tanzen/interval/interval_newton.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/sanitized.hpp"

#include <doctest/doctest.h>
#include <Eigen/LU>

#include <cmath>
#include <fmt/format.h>
#include <string>
#include <vector>

using namespace tanzen;

namespace {

/// x'Hx / 2 + g'x within [-1, 1] in every variable, and, where it has one, a row a'x <= limit.
struct Quadratic {
  Matrix hessian;
  Vector gradient, row;
  double limit = 0;

  [[nodiscard]] double value(const Vector& x) const { return 0.5 * x.dot(hessian * x) + gradient.dot(x); }
  [[nodiscard]] bool is_feasible(const Vector& x) const {
    constexpr double room = 1e-12;
    return x.cwiseAbs().maxCoeff() <= 1 + room && (row.size() == 0 || row.dot(x) <= limit + room);
  }
  [[nodiscard]] Problem problem() const {
    std::string formula = "0", left = "0";
    const Index n = gradient.size();
    for (Index i = 0; i < n; ++i) {
      formula += fmt::format(" + {}*x{}", gradient[i], i + 1);
      for (Index j = 0; j < n; ++j) formula += fmt::format(" + {}*x{}*x{}", 0.5 * hessian(i, j), i + 1, j + 1);
      if (row.size() > 0) left += fmt::format(" + {}*x{}", row[i], i + 1);
    }
    const Problem problem = Problem::from_formula(formula).bounds(Vector::Constant(n, -1), Vector::Constant(n, 1));
    return row.size() == 0 ? problem : problem.with_constraint("row", fmt::format("{} <= {}", left, limit));
  }
};

Matrix random_symmetric(Index n, RandomStream& random) {
  Matrix matrix(n, n);
  for (Index i = 0; i < n; ++i) {
    for (Index j = 0; j <= i; ++j) matrix(i, j) = matrix(j, i) = random.normal();
  }
  return matrix;
}

/// Of all that can be a minimizer: on each face, with the row held or not, where the gradient along it is zero.
struct Least {
  double value = INFINITY;
  Vector point;
};
Least face_by_face(const Quadratic& given) {
  const Index n = given.gradient.size();
  Least least;
  const auto faces = static_cast<Index>(std::lround(std::pow(3, n)));
  for (Index face = 0; face < faces; ++face) {
    for (int held = 0; held < (given.row.size() > 0 ? 2 : 1); ++held) {
      const Index m = n + held;
      Matrix system = Matrix::Zero(m, m);
      Vector right = Vector::Zero(m);
      Index code = face;
      for (Index i = 0; i < n; ++i, code /= 3) {
        if (code % 3 == 0) {
          system.row(i).head(n) = given.hessian.row(i);
          if (held != 0) system(i, n) = given.row[i];
          right[i] = -given.gradient[i];
        } else {
          system(i, i) = 1;
          right[i] = code % 3 == 1 ? -1 : 1;
        }
      }
      if (held != 0) {
        system.row(n).head(n) = given.row.transpose();
        right[n] = given.limit;
      }
      const Eigen::FullPivLU<Matrix> factors(system);
      if (!factors.isInvertible()) continue;
      const Vector x = Vector(factors.solve(right)).head(n);
      if (given.is_feasible(x) && given.value(x) < least.value) least = {given.value(x), x};
    }
  }
  return least;
}

/// Whether it is known to have exactly one minimizer.
bool check_proof(const Quadratic& given, bool must_be_few) {
  const Least least = face_by_face(given);
  const Outcome outcome = run(given.problem(), method("branch-and-bound"), {.stop = {.iterations = 100}});
  REQUIRE(outcome.status == Status::proved);
  const double room = 1e-9 * std::max(1.0, std::abs(least.value));
  CHECK(outcome.proof->lower <= least.value + room);
  CHECK(outcome.proof->upper >= least.value - room);
  CHECK(outcome.proof->upper - outcome.proof->lower <= 3e-8 * std::max(1.0, std::abs(least.value)));
  bool is_boxed = false;
  for (const Proof::MinimizerBox& box : outcome.proof->boxes) {
    is_boxed = is_boxed || ((least.point.array() >= box.lower.array() - 1e-9).all() &&
                            (least.point.array() <= box.upper.array() + 1e-9).all());
  }
  CHECK(is_boxed);
  if (must_be_few) {
    CHECK(outcome.proof->boxes.size() == 1);
    CHECK(outcome.proof->looked_at <= 5);
  }
  const Proof::MinimizerBox& first = outcome.proof->boxes.front();
  const bool is_one = outcome.proof->boxes.size() == 1 && first.holds == Proof::Holds::one;
  if (is_one) {
    CHECK((first.upper - first.lower).maxCoeff() < 1e-9);
    CHECK((first.lower - least.point).cwiseAbs().maxCoeff() < 1e-8);
  }
  return is_one;
}

} // namespace

TEST_SUITE("proofs") {
  TEST_CASE("a bowl reaches as far as it is said to, and what is no bowl is told") {
    RandomStream random(11, {"bowls"});
    int bowls = 0;
    for (int k = 0; k < 300; ++k) {
      const Index n = 1 + static_cast<Index>(random.below(5));
      const Matrix root = random_symmetric(n, random);
      const Matrix middle = root * root.transpose() + 0.1 * Matrix::Identity(n, n);
      const double half = std::pow(10, random.uniform(-12, -1));
      std::vector<Enclosure> enclosure;
      for (Index i = 0; i < n; ++i) {
        for (Index j = 0; j < n; ++j) enclosure.emplace_back(middle(i, j) - half, middle(i, j) + half);
      }
      const auto reach = reach_of_bowl(enclosure, n);
      if (!reach) continue;
      ++bowls;
      for (int trial = 0; trial < 20; ++trial) {
        Matrix within = middle;
        for (Index i = 0; i < n; ++i) {
          for (Index j = 0; j <= i; ++j) within(i, j) = within(j, i) = middle(i, j) + random.uniform(-half, half);
        }
        // Along each coordinate it reaches as far as the root of the inverse's diagonal.
        const Vector furthest = within.inverse().diagonal().cwiseSqrt();
        for (Index i = 0; i < n; ++i) CHECK(furthest[i] <= (*reach)[static_cast<std::size_t>(i)] * (1 + 1e-9));
      }
      if (half < 1e-9) {
        const Vector furthest = middle.inverse().diagonal().cwiseSqrt();
        for (Index i = 0; i < n; ++i) CHECK((*reach)[static_cast<std::size_t>(i)] <= furthest[i] * (1 + 1e-6));
      }
    }
    CHECK(bowls > 200);
    const std::vector<Enclosure> saddle{1, 2, 2, 1}, flat{1, 1, 1, 1}, unsure{{-0.1, 1}}, open{{1, INFINITY}};
    CHECK_FALSE(reach_of_bowl(saddle, 2));
    CHECK_FALSE(reach_of_bowl(flat, 2));
    CHECK_FALSE(reach_of_bowl(unsure, 1));
    CHECK_FALSE(reach_of_bowl(open, 1));
  }

  TEST_CASE("convex quadratics are proved from the region as a whole, on faces and along a row too") {
    RandomStream random(12, {"convex quadratics"});
    const int problems = testing::is_sanitized ? 10 : 60;
    int with_one = 0;
    for (int k = 0; k < problems; ++k) {
      const Index n = 2 + static_cast<Index>(random.below(4));
      const Matrix root = random_symmetric(n, random);
      Quadratic given{root * root.transpose() + 0.2 * Matrix::Identity(n, n), Vector(n), Vector()};
      for (double& slope : given.gradient) slope = 3 * random.normal();
      if (k % 2 == 1) {
        given.row.resize(n);
        for (double& slope : given.row) slope = random.normal();
        given.limit = random.uniform(-0.5, 0.5);
      }
      CAPTURE(k);
      with_one += check_proof(given, true);
    }
    CHECK(with_one == problems);
  }

  TEST_CASE("quadratics with saddles have the minima that are found face by face") {
    RandomStream random(13, {"saddles"});
    const int problems = testing::is_sanitized ? 10 : 60;
    int with_one = 0;
    for (int k = 0; k < problems; ++k) {
      const Index n = 2 + static_cast<Index>(random.below(3));
      Quadratic given{random_symmetric(n, random), Vector(n), Vector()};
      for (double& slope : given.gradient) slope = random.normal();
      if (k % 3 == 2) {
        given.row.resize(n);
        for (double& slope : given.row) slope = random.normal();
        given.limit = random.uniform(-0.5, 0.5);
      }
      CAPTURE(k);
      with_one += check_proof(given, false);
    }
    CHECK(with_one == problems);
  }

  TEST_CASE("of one minimizer under constraints nothing is said where there may be more, or none is strict") {
    const auto proof_of = [](const Problem& problem) {
      const Outcome outcome = run(problem, method("branch-and-bound"), {.stop = {.iterations = 100}});
      return outcome.proof.value_or(Proof{});
    };
    const auto holds_one = [](const Proof& proof) {
      return proof.boxes.size() == 1 && proof.boxes[0].holds == Proof::Holds::one;
    };
    const auto square = [](const std::string& formula) {
      return Problem::from_formula(formula, {"x", "y"}).bounds(Vector{{-1, -1}}, Vector{{1, 1}});
    };
    // An equality along which the Lagrangian is curved the wrong way without what its square adds.
    const Proof bent = proof_of(square("y - x^2").with_constraint("arc", "y = 2*x^2 + 0.25"));
    CHECK(holds_one(bent));
    CHECK(holds_one(proof_of(square("-x^2 - 2*y^2 + 0.1*x + 0.1*y")))); // a corner where it is concave
    CHECK(holds_one(proof_of(square("x + y").with_constraint("disc", "x^2 + y^2 <= 0.5"))));
    CHECK_FALSE(holds_one(proof_of(square("-x^2 - 2*y^2"))));                                // four corners
    CHECK_FALSE(holds_one(proof_of(square("x").with_constraint("edge", "x + 0*y >= 0.5")))); // an edge
    CHECK_FALSE(holds_one(proof_of(square("x^2*y^2"))));                                     // a cross
    CHECK_FALSE(holds_one(proof_of(square("x^2").with_constraint("disc", "x^2 + y^2 <= 0.5"))));
  }

  TEST_CASE("ten variables are no more than two where a problem is convex") {
    for (const char* name : {"linear-full-rank", "trid", "linear-regulator", "plane-in-an-ellipsoid"}) {
      CAPTURE(std::string(name));
      const Outcome outcome = run(testbed::problem(name), method("branch-and-bound"), {.stop = {.iterations = 5}});
      REQUIRE(outcome.status == Status::proved);
      CHECK(outcome.proof->looked_at < 5);
      CHECK(std::abs(*outcome.gap) < 1e-8 * std::max(1.0, std::abs(outcome.value)));
      CHECK(outcome.violation < 1e-9); // though lower values were seen within the tolerance
    }
  }
}
