#include "tanzen/analysis/proved_stationary_points.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/sanitized.hpp"
#include "support/sturm.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <string>
#include <vector>

using namespace tanzen;
using testing::Polynomial;
using testing::Rational;

namespace {

std::ptrdiff_t count(const ProvedStationaryPoints& found, PointKind kind) {
  return std::ranges::count(found.points, kind, &ProvedStationaryPoint::kind);
}

Problem in_cube(const std::string& formula, double half, const std::vector<std::string>& equalities = {}) {
  Problem problem = formula == "z" ? Problem::from_formula(formula, {"x", "y", "z"}) : Problem::from_formula(formula);
  problem = problem.region(Vector::Constant(problem.dimension(), -half), Vector::Constant(problem.dimension(), half));
  for (std::size_t k = 0; k < equalities.size(); ++k)
    problem = problem.with_constraint(fmt::format("c{}", k + 1), equalities[k]);
  return problem;
}

/// A polynomial with whole numbers, and what it is called in a formula.
struct Drawn {
  Polynomial polynomial;
  std::string formula;
};
Drawn draw(RandomStream& random, std::size_t degree, const std::string& variable) {
  std::vector<Rational> numbers;
  std::string formula;
  for (std::size_t k = 0; k <= degree; ++k) {
    int number = static_cast<int>(random.uniform(-9, 10));
    if (k == degree && number == 0) number = 3;
    numbers.emplace_back(number);
    formula += fmt::format("{}({})*{}^{}", k == 0 ? "" : " + ", number, variable, k);
  }
  return {Polynomial(numbers), formula};
}

} // namespace

TEST_SUITE_BEGIN("proofs");

TEST_CASE("all stationary points of functions of two variables are proved, in number and kind") {
  struct Row {
    const char* name;
    Index minima, maxima, saddles;
  };
  // Himmelblau, 1972; Dixon and Szego, 1978. Where the gradient points outward all around, the minima and maxima are
  // one more than the saddles.
  const Row rows[] = {{"himmelblau", 4, 1, 4},      {"six-hump-camel", 6, 2, 7}, {"three-hump-camel", 3, 0, 2},
                      {"rosenbrock", 1, 0, 0},      {"booth", 1, 0, 0},          {"matyas", 1, 0, 0},
                      {"styblinski-tang", 4, 1, 4}, {"zettl", 1, 1, 1},          {"qing", 4, 1, 4},
                      {"rastrigin", 121, 100, 220}, {"deckkers-aarts", 3, 0, 2}};
  for (const Row& row : rows) {
    CAPTURE(std::string(row.name));
    const ProvedStationaryPoints found = prove_stationary_points(testbed::problem(row.name, 2));
    CHECK(found.complete);
    CHECK(found.at_edge == 0);
    CHECK(count(found, PointKind::minimum) == row.minima);
    CHECK(count(found, PointKind::maximum) == row.maxima);
    CHECK(count(found, PointKind::saddle) == row.saddles);
    CHECK(count(found, PointKind::degenerate) == 0);
    CHECK(row.minima + row.maxima - row.saddles == 1);
  }
}

TEST_CASE("of a sum of squares the sum is looked at, under a constraint too") {
  const Problem squares = testbed::problem("beale");
  const Problem formula =
      Problem::from_formula("(1.5 - x1*(1 - x2))^2 + (2.25 - x1*(1 - x2^2))^2 + (2.625 - x1*(1 - x2^3))^2")
          .region(squares.sampling_box().lower, squares.sampling_box().upper);
  const ProvedStationaryPoints of_squares = prove_stationary_points(squares), same = prove_stationary_points(formula);
  CHECK(of_squares.complete);
  CHECK(count(of_squares, PointKind::minimum) == 1);
  CHECK(count(of_squares, PointKind::saddle) == 2);
  CHECK(same.points.size() == 3);
  const std::string circle = "x1^2 + x2^2 = 4";
  const ProvedStationaryPoints held = prove_stationary_points(squares.with_constraint("circle", circle)),
                               written = prove_stationary_points(formula.with_constraint("circle", circle));
  CHECK(held.complete);
  CHECK(held.points.size() == written.points.size());
  CHECK(held.points.size() > 1);
  REQUIRE(!held.points.empty());
  const ProvedStationaryPoint& least = held.points.front();
  CHECK(formula.value(least.point()) == doctest::Approx(least.least_value).epsilon(1e-9));
  CHECK(least.point().norm() == doctest::Approx(2));
}

TEST_CASE("a product of two waves has as many stationary points as its factors' zeros and extremes tell") {
  // Shubert's function is g(x) g(y): its gradient is zero where g'(x) = g'(y) = 0, or g(x) = g(y) = 0.
  const auto wave = [](const std::string& x) { return fmt::format("sum(i = 1..5, i*cos((i + 1)*{} + i))", x); };
  const double half = testing::is_sanitized ? 3 : 10;
  const Problem once = in_cube(wave("x"), half);
  // The zeros of g are the zeros of the slope of its integral.
  const Problem integral = in_cube("sum(i = 1..5, i*sin((i + 1)*x + i)/(i + 1))", half);
  const ProvedStationaryPoints extremes = prove_stationary_points(once), zeros = prove_stationary_points(integral);
  REQUIRE(extremes.complete);
  REQUIRE(zeros.complete);
  const ProvedStationaryPoints both = prove_stationary_points(in_cube("(" + wave("x") + ")*(" + wave("y") + ")", half));
  CHECK(both.complete);
  CHECK(both.points.size() ==
        extremes.points.size() * extremes.points.size() + zeros.points.size() * zeros.points.size());
}

TEST_CASE("stationary points under equality constraints are proved complete, with their multipliers") {
  struct Row {
    const char* formula;
    std::vector<std::string> equalities;
    std::size_t points;
    std::ptrdiff_t minima;
    double least;
  };
  const Row rows[] = {{"x + y", {"x^2 + y^2 = 2"}, 2, 1, -2},
                      {"x*y", {"x^2 + y^2 = 2"}, 4, 2, -1},
                      {"x^2 + y^2", {"x*y = 1"}, 2, 2, 2},
                      {"x^2 + 2*y^2", {"x^2 + y^2 = 1"}, 4, 2, 1},
                      {"x^3 - 3*x*y^2", {"x^2 + y^2 = 1"}, 6, 3, -1}, // cos(3 angle)
                      {"x^2*y", {"x^2 + y^2 = 1"}, 6, 3, -2 / (3 * std::sqrt(3))},
                      {"x + y + z", {"x^2 + y^2 + z^2 = 3"}, 2, 1, -3},
                      {"x*y*z", {"x^2 + y^2 + z^2 = 3"}, 14, 4, -1},
                      {"x^2 + 2*y^2 + 3*z^2", {"x^2 + y^2 + z^2 = 1"}, 6, 2, 1},
                      {"z", {"x^2 + y^2 + z^2 = 1", "x + y + z = 1"}, 2, 1, -1.0 / 3},
                      {"z", {"x^2 + y^2 = 2", "z = x + y"}, 2, 1, -2},
                      {"x^2 + y^2 + z^2", {"x*y = 1", "z = x - y"}, 2, 2, 2}};
  for (const Row& row : rows) {
    CAPTURE(std::string(row.formula));
    const Problem problem = in_cube(row.formula, 3, row.equalities);
    const ProvedStationaryPoints found = prove_stationary_points(problem);
    CAPTURE(found.how);
    CHECK(found.complete);
    CHECK(found.points.size() == row.points);
    CHECK(count(found, PointKind::minimum) == row.minima);
    REQUIRE(!found.points.empty());
    CHECK(found.points[0].least_value <= row.least + 1e-15);
    CHECK(found.points[0].most_value >= row.least - 1e-15);
    for (const ProvedStationaryPoint& each : found.points) {
      CHECK((each.upper - each.lower).maxCoeff() < 1e-9);
      // The gradient is the sum of the constraints', each times what its limit is worth.
      const Vector x = each.point(), y = 0.5 * (each.least_multipliers + each.most_multipliers);
      Vector rest = problem.gradient(x);
      const std::unique_ptr<FunctionWorker> worker = problem.bundle()->worker();
      Matrix jacobian;
      worker->jacobian(x, jacobian);
      for (Index k = 0; k < y.size(); ++k) rest -= y[k] * jacobian.row(k + 1).transpose();
      CHECK(rest.lpNorm<Eigen::Infinity>() < 1e-7);
    }
  }
}

TEST_CASE("of random polynomials none is missing and none invented: the zeros of a resultant are as many") {
  // f = p(x) + q(y) + x y is stationary where y = -p'(x) and q'(y) + x = 0: the zeros of q'(-p'(x)) + x. Its leading
  // powers leave none outside.
  const int problems = testing::is_sanitized ? 20 : 200;
  RandomStream random(18, {"polynomials"});
  std::size_t most = 0;
  for (int k = 0; k < problems; ++k) {
    const std::size_t degree = k % 2 == 0 ? 4 : 3;
    const Drawn p = draw(random, degree, "x"), q = draw(random, 4, "y");
    const Polynomial resultant = q.polynomial.slope().of(p.polynomial.slope() * Polynomial{-1}) + Polynomial{0, 1};
    const auto expected = static_cast<std::size_t>(resultant.zeros_between(-1000, 1000));
    const Problem problem = in_cube(p.formula + " + " + q.formula + " + x*y", 1000);
    const ProvedStationaryPoints found = prove_stationary_points(problem);
    CAPTURE(p.formula);
    CAPTURE(q.formula);
    CAPTURE(found.how);
    CHECK(found.complete);
    CHECK(found.points.size() == expected);
    most = std::max(most, expected);
  }
  CHECK(most >= 5);
}

TEST_CASE("of random constrained polynomials none is missing and none invented either") {
  // On y = p(x) the function is one of x alone; on the circle, one of t, where x = (1 - t^2) / (1 + t^2) and
  // y = 2 t / (1 + t^2), but for the point (-1, 0).
  const int problems = testing::is_sanitized ? 6 : 50;
  RandomStream random(19, {"constrained polynomials"});
  for (int k = 0; k < problems; ++k) {
    const Drawn in_x = draw(random, 3, "x"), curve = draw(random, 2, "x");
    Drawn in_y = draw(random, 2, "y");
    while (in_y.polynomial[1] == 0) in_y = draw(random, 2, "y"); // or the point left away is stationary
    std::string relation = "y = " + curve.formula;
    int expected = 0;
    if (k % 2 == 0) {
      const Polynomial along = in_x.polynomial + in_y.polynomial.of(curve.polynomial);
      expected = along.slope().zeros_between(-50, 50);
    } else {
      relation = "x^2 + y^2 = 1";
      // f = sum a_i x^i + b_i y^i times (1 + t^2)^3, then the numerator of its slope.
      const Polynomial down{1, 0, -1}, twice{0, 2}, under{1, 0, 1};
      const Polynomial cube = under * under * under;
      Polynomial up;
      for (std::size_t i = 0; i <= 3; ++i) {
        Polynomial x_part{in_x.polynomial.degree() >= i ? in_x.polynomial[i] : Rational(0)}, y_part;
        if (i <= 2) y_part = Polynomial{in_y.polynomial.degree() >= i ? in_y.polynomial[i] : Rational(0)};
        for (std::size_t j = 0; j < i; ++j) {
          x_part = x_part * down;
          y_part = y_part * twice;
        }
        for (std::size_t j = i; j < 3; ++j) {
          x_part = x_part * under;
          y_part = y_part * under;
        }
        up = up + x_part + y_part;
      }
      const Polynomial slope = up.slope() * cube + up * cube.slope() * Polynomial{-1};
      expected = slope.zeros_between(-1000000, 1000000);
    }
    const Problem problem = in_cube(in_x.formula + " + " + in_y.formula, 10000, {relation});
    const ProvedStationaryPoints found = prove_stationary_points(problem);
    CAPTURE(problem.name());
    CAPTURE(relation);
    CAPTURE(found.how);
    CHECK(found.complete);
    CHECK(found.points.size() == static_cast<std::size_t>(expected));
  }
}

TEST_CASE("what is not isolated, or not smooth, is left undecided") {
  const ProvedStationaryPoints valley = prove_stationary_points(in_cube("(x - y)^2", 2));
  CHECK(!valley.complete);
  CHECK(valley.undecided > 0);
  CHECK(valley.points.empty());
  const ProvedStationaryPoints degenerate = prove_stationary_points(in_cube("x^4 + y^2", 2));
  CHECK(!degenerate.complete);
  const ProvedStationaryPoints kink = prove_stationary_points(in_cube("abs(x) + y^2", 2));
  CHECK(!kink.complete);
  // Constraints whose gradients vanish: the point itself cannot be told.
  CHECK(!prove_stationary_points(in_cube("x + y", 2, {"x^2 + y^2 = 0"})).complete);
  // None there, which is certain too.
  const ProvedStationaryPoints none = prove_stationary_points(in_cube("x + exp(y)", 2));
  CHECK(none.complete);
  CHECK(none.points.empty());
}

TEST_SUITE_END();
