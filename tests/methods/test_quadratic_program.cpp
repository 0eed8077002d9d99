#include "tanzen/methods/constrained/quadratic_program.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/random.hpp"

#include <doctest/doctest.h>

#include <algorithm>

using namespace tanzen;
using methods::QuadraticProgram, methods::QuadraticSolution;
using Became = QuadraticSolution::Status;

namespace {

Vector normal_vector(RandomStream& random, Index n) {
  Vector v(n);
  random.fill_normal(v);
  return v;
}

/// Some limits of every kind around a point that keeps them all, of which many meet in that point; rows that repeat,
/// and sums of others, are among them.
QuadraticProgram feasible_program(RandomStream& random) {
  const Index n = 1 + random.below(10), m = random.below(14);
  const Matrix root = Matrix::NullaryExpr(n, n, [&] { return random.normal(); });
  QuadraticProgram program{.hessian = root * root.transpose() + 0.01 * Matrix::Identity(n, n),
                           .gradient = 3 * normal_vector(random, n),
                           .rows = Matrix(m, n)};
  const Vector inside = normal_vector(random, n);
  program.lower = Vector::Constant(m, -infinity);
  program.upper = Vector::Constant(m, infinity);
  Index equalities = 0;
  for (Index i = 0; i < m; ++i) {
    const Index kind = random.below(6);
    if (kind == 0 && i > 1)
      program.rows.row(i) = program.rows.row(i - 1);
    else if (kind == 1 && i > 1)
      program.rows.row(i) = program.rows.row(i - 1) - 2 * program.rows.row(i - 2);
    else
      program.rows.row(i) = normal_vector(random, n);
    const double at = program.rows.row(i).dot(inside);
    const double room = random.below(2) == 0 ? 0 : random.uniform();
    switch (random.below(4)) {
    case 0: program.lower[i] = at - room; break;
    case 1: program.upper[i] = at + room; break;
    case 2:
      program.lower[i] = at - room;
      program.upper[i] = at + 0.5;
      break;
    default:
      if (equalities++ < n / 2) program.lower[i] = program.upper[i] = at;
    }
  }
  program.least = Vector::Constant(n, -infinity);
  program.most = Vector::Constant(n, infinity);
  for (Index k = 0; k < n; ++k) {
    if (random.below(3) == 0) program.least[k] = inside[k] - (random.below(2) == 0 ? 0 : random.uniform());
    if (random.below(3) == 0) program.most[k] = inside[k] + (random.below(2) == 0 ? 0 : random.uniform());
  }
  return program;
}

double broken(double value, double lower, double upper) {
  return std::max({0.0, lower - value, value - upper});
}

/// How far a multiplier is from what its limits allow at that value.
double wrong_sign(double y, double value, double lower, double upper) {
  const double room = y > 0 ? upper - value : value - lower;
  return std::abs(y) * std::min(1.0, std::abs(room));
}

/// The largest fault of the conditions of Karush, Kuhn and Tucker, relative to the numbers in them.
double kkt_fault(const QuadraticProgram& program, const QuadraticSolution& solution) {
  const Vector& x = solution.x;
  const Vector values = program.rows * x;
  const Vector rest = program.hessian * x + program.gradient + program.rows.transpose() * solution.row_multipliers +
                      solution.bound_multipliers;
  double worst = rest.cwiseAbs().maxCoeff();
  for (Index i = 0; i < values.size(); ++i) {
    worst = std::max(worst, broken(values[i], program.lower[i], program.upper[i]));
    if (program.lower[i] != program.upper[i])
      worst = std::max(worst, wrong_sign(solution.row_multipliers[i], values[i], program.lower[i], program.upper[i]));
  }
  for (Index k = 0; k < x.size(); ++k) {
    worst = std::max(worst, broken(x[k], program.least[k], program.most[k]));
    if (program.least[k] != program.most[k])
      worst = std::max(worst, wrong_sign(solution.bound_multipliers[k], x[k], program.least[k], program.most[k]));
  }
  const double size =
      std::max({1.0, program.gradient.cwiseAbs().maxCoeff(), x.cwiseAbs().maxCoeff(),
                solution.row_multipliers.size() > 0 ? solution.row_multipliers.cwiseAbs().maxCoeff() : 0});
  return worst / size;
}

} // namespace

TEST_SUITE("quadratic programs") {
  TEST_CASE("ten thousand random ones, degenerate ones among them, meet their optimality conditions") {
    RandomStream random(3, {"programs"});
    double worst = 0;
    int unsolved = 0;
    for (int k = 0; k < 10'000; ++k) {
      const QuadraticProgram program = feasible_program(random);
      const QuadraticSolution solution = solve(program);
      if (solution.status != Became::solved) {
        ++unsolved;
        continue;
      }
      worst = std::max(worst, kkt_fault(program, solution));
    }
    CHECK(unsolved == 0);
    CHECK(worst <= 1e-9);
  }

  TEST_CASE("a thousand whose limits cannot be kept together are told so, by limits that conflict alone") {
    RandomStream random(4, {"conflicts"});
    int wrong = 0;
    for (int k = 0; k < 1000; ++k) {
      QuadraticProgram program = feasible_program(random);
      const Index n = program.gradient.size(), m = program.rows.rows();
      // What two rows, or a row with itself, say is denied by one more.
      const Vector a = normal_vector(random, n), b = normal_vector(random, n);
      program.rows.conservativeResize(m + 3, n);
      program.rows.row(m) = a;
      program.rows.row(m + 1) = b;
      program.rows.row(m + 2) = a + b;
      program.lower.conservativeResize(m + 3);
      program.upper.conservativeResize(m + 3);
      program.lower.tail(3) << 1, 2, -infinity;
      program.upper.tail(3) << infinity, infinity, 2.9;
      const QuadraticSolution solution = solve(program);
      if (solution.status != Became::infeasible) {
        ++wrong;
        continue;
      }
      // The limits named, and no others, are a conflict too.
      QuadraticProgram named = program;
      for (Index i = 0; i < m + 3; ++i) {
        if (std::ranges::find(solution.conflict, i) != solution.conflict.end()) continue;
        named.lower[i] = -infinity;
        named.upper[i] = infinity;
      }
      for (Index i = 0; i < n; ++i) {
        if (std::ranges::find(solution.conflict, m + 3 + i) != solution.conflict.end()) continue;
        named.least[i] = -infinity;
        named.most[i] = infinity;
      }
      if (solve(named).status != Became::infeasible) ++wrong;
    }
    CHECK(wrong == 0);
  }

  TEST_CASE("the multipliers of a small one are those by hand") {
    // Minimize (x^2 + y^2) / 2 with x + y >= 2 and x <= 0.5: (0.5, 1.5), -1.5 and 1.
    const QuadraticProgram program{.hessian = Matrix::Identity(2, 2),
                                   .gradient = Vector::Zero(2),
                                   .rows = Matrix{{1, 1}},
                                   .lower = Vector{{2}},
                                   .upper = Vector{{infinity}},
                                   .least = Vector{{-infinity, -infinity}},
                                   .most = Vector{{0.5, infinity}}};
    const QuadraticSolution solution = solve(program);
    REQUIRE(solution.status == Became::solved);
    CHECK(solution.x[0] == doctest::Approx(0.5).epsilon(1e-14));
    CHECK(solution.x[1] == doctest::Approx(1.5).epsilon(1e-14));
    CHECK(solution.row_multipliers[0] == doctest::Approx(-1.5).epsilon(1e-14));
    CHECK(solution.bound_multipliers[0] == doctest::Approx(1).epsilon(1e-14));
  }

  TEST_CASE("a model without curvature, and limits that cross, are told apart from the rest") {
    QuadraticProgram program{.hessian = Matrix::Zero(1, 1),
                             .gradient = Vector::Ones(1),
                             .rows = Matrix(0, 1),
                             .least = Vector{{0}},
                             .most = Vector{{1}}};
    CHECK(solve(program).status == Became::not_convex);
    program.hessian(0, 0) = 1;
    program.least[0] = 2;
    const QuadraticSolution crossed = solve(program);
    CHECK(crossed.status == Became::infeasible);
    CHECK(crossed.conflict == std::vector<Index>{0});
  }
}
