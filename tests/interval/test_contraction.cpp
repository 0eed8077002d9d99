// Narrowing boxes, Newton steps over them, and all zeros of systems.
#include "tanzen/interval/derivative_tapes.hpp"
#include "tanzen/interval/interval_newton.hpp"
#include "tanzen/interval/interval_tape.hpp"
#include "tanzen/interval/zeros.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/numeric/symmetric_eigen.hpp"
#include "tanzen/problem/problem.hpp"

#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

using namespace tanzen;

namespace {

/// What a contraction leaves of a box; empty where that is nothing.
std::vector<Enclosure> left_of(const std::string& formula, const Enclosure& range, std::vector<Enclosure> box) {
  const std::vector<std::string> names{"x", "y"};
  const IntervalTape tape(
      *Problem::from_formula(formula, {names.begin(), names.begin() + std::ssize(box)}).expression());
  auto work = tape.workspace();
  (void)tape.evaluate(box, IntervalTape::Order::value, work);
  if (!tape.contract(range, box, work)) box.clear();
  return box;
}

/// The equations x^2 + y^2 = 1 and y = x^2 + shift.
class CircleAndParabola final : public IntervalSystem {
 public:
  explicit CircleAndParabola(double shift) : shift_(shift) {}
  [[nodiscard]] std::size_t size() const override { return 2; }
  Sight evaluate(std::span<const Enclosure> box, std::span<Enclosure> values, std::span<Enclosure> jacobian) override {
    values[0] = square(box[0]) + square(box[1]) - Enclosure(1);
    values[1] = square(box[0]) + Enclosure(shift_) - box[1];
    jacobian[0] = Enclosure(2) * box[0];
    jacobian[1] = Enclosure(2) * box[1];
    jacobian[2] = Enclosure(2) * box[0];
    jacobian[3] = -1;
    return Sight::slopes;
  }
  bool contract(std::span<Enclosure>) override { return true; }

 private:
  double shift_;
};

} // namespace

TEST_SUITE("intervals") {
  TEST_CASE("a contraction leaves what can have the values, and little else") {
    const double slack = 1e-12;
    const auto is_about = [&](const Enclosure& a, double lower, double upper) {
      return a.lower <= lower && a.upper >= upper && a.lower >= lower - slack && a.upper <= upper + slack;
    };
    CHECK(is_about(left_of("x^2", {4, 9}, {{-10, 10}})[0], -3, 3));
    CHECK(is_about(left_of("x^2", {4, 9}, {{0.5, 10}})[0], 2, 3));
    CHECK(is_about(left_of("x^3", {-8, 27}, {{-10, 10}})[0], -2, 3));
    CHECK(is_about(left_of("exp(x)", {0, 1}, {{-1, 10}})[0], -1, 0));
    CHECK(is_about(left_of("abs(x - 1)", {0, 2}, {{-10, 10}})[0], -1, 3));
    CHECK(is_about(left_of("sin(x)", {1, 2}, {{0, 6}})[0], M_PI / 2, M_PI / 2));
    CHECK(is_about(left_of("cos(x)", {-1, -1}, {{0, 6}})[0], M_PI, M_PI));
    CHECK(is_about(left_of("min(x, 7)", {3, 5}, {{-10, 10}})[0], 3, 5));
    CHECK(is_about(left_of("hypot(x, y)", {0, 5}, {{-10, 10}, {4, 10}})[0], -3, 3));
    const auto sum = left_of("x + 2*y", {10, 20}, {{0, 4}, {0, 4}});
    CHECK(is_about(sum[0], 2, 4));
    CHECK(is_about(sum[1], 3, 4));
    CHECK(left_of("x^2 + y^2", {-5, -1}, {{-1, 1}, {-1, 1}}).empty());
    CHECK(left_of("sqrt(x)", {3, 4}, {{0, 1}}).empty());
    // A choice that is not made yet takes nothing from either side; one that is, from its own.
    CHECK(left_of("if(x < 0, x + 5, sqrt(x))", {1, 2}, {{-9, 9}})[0] == Enclosure(-9, 9));
    CHECK(is_about(left_of("if(x < 0, x + 5, sqrt(x))", {1, 2}, {{1, 9}})[0], 1, 4));
  }

  TEST_CASE("no contraction loses a point whose value is wanted, for any operation and box") {
    const int boxes = testing::is_sanitized ? 300 : 10'000;
    for (const char* formula :
         {"-x",          "abs(x) - y",        "floor(x) + y", "ceil(x)*y",    "sqrt(x) + y",       "cbrt(x)*y",
          "exp(x) - y",  "log(x) + y",        "log2(x) + y",  "log10(x) + y", "sin(x) + sin(3*y)", "cos(x)*y",
          "tan(x) + y",  "asin(x) + y",       "acos(x) - y",  "atan(x)*y",    "x^2 - y",           "1/x + y",
          "x^3*y",       "x^4 - y^5",         "x^-2 + y",     "x^1.5 + y",    "2^x - y",           "x/y",
          "x*y",         "hypot(x, y)",       "min(x, y)",    "max(x, y^2)",  "atan2(y, x)",       "sinh(x) + tanh(y)",
          "cosh(x) - y", "if(x < y, x^2, y)", "sign(x)*y",    "round(x) + y", "x*x - y*y",         "x^y"}) {
      const std::string text = formula;
      CAPTURE(text);
      const Problem problem = Problem::from_formula(text, {"x", "y"});
      const IntervalTape tape(*problem.expression());
      auto work = tape.workspace();
      RandomStream random(7, {"contractions", text});
      int lost = 0, narrowed = 0;
      for (int k = 0; k < boxes; ++k) {
        std::vector<Enclosure> box;
        Vector x(2);
        for (Index i = 0; i < 2; ++i) {
          x[i] = random.below(4) == 0 ? std::round(random.uniform(-4, 4)) : random.uniform(-4, 4);
          box.emplace_back(x[i] - std::pow(10, random.uniform(-6, 1)), x[i] + std::pow(10, random.uniform(-6, 1)));
        }
        const std::vector<Enclosure> at{Enclosure(x[0]), Enclosure(x[1])};
        const BoxTraits traits = tape.evaluate(at, IntervalTape::Order::value, work);
        if (traits.nowhere || traits.partly) continue;
        const double room = random.below(2) == 0 ? 0 : random.uniform(0, 1);
        const Enclosure value = tape.value(work), range{value.lower - room, value.upper + room};
        (void)tape.evaluate(box, IntervalTape::Order::value, work);
        const std::vector<Enclosure> before = box;
        const bool is_left = tape.contract(range, box, work);
        lost += !is_left || !box[0].contains(x[0]) || !box[1].contains(x[1]);
        narrowed += box != before;
      }
      CHECK(lost == 0);
      const bool is_left_alone =
          text.starts_with("atan2") || text.starts_with("sign") || text.starts_with("sinh") || text == "x^y";
      CHECK((narrowed > boxes / 100 || is_left_alone));
    }
  }

  TEST_CASE("derivatives on tapes of their own narrow to where they vanish, whatever numbers the formula has") {
    const Problem problem = Problem::from_formula("0.1*x^3 - 0.3*x + 0.7*(y - 0.1)^2", {"x", "y"});
    DerivativeTapes derivatives(*problem.expression());
    REQUIRE(!derivatives.is_empty());
    std::vector<Enclosure> box{{0.5, 4}, {-3, 3}};
    for (int k = 0; k < 3; ++k) {
      CHECK(derivatives.contract(0, box));
      CHECK(derivatives.contract(1, box));
    }
    CHECK(box[0].contains(1));
    CHECK(box[0].width() < 1e-12);
    CHECK(box[1].contains(0.1));
    CHECK(box[1].width() < 1e-12);
    std::vector<Enclosure> without{{1.5, 4}, {-3, 3}};
    CHECK_FALSE(derivatives.contract(0, without));
    // A number of the derivative that no double is.
    CHECK(DerivativeTapes(*Problem::from_formula("log10(x)").expression()).is_empty());
    CHECK(DerivativeTapes(*Problem::from_formula("x^0.3").expression()).is_empty());
  }

  TEST_CASE("a Newton step finds one zero, none, or the gap between two") {
    IntervalNewton step;
    // x^2 - 2 on [1, 2], about 1.5; on [2, 3]; x^2 - 1 on [-2, 2], about 0.
    std::vector<Enclosure> box{{1, 2}};
    const auto take = [&](const Enclosure& slope, double value, double centre) {
      return step.take(std::vector<Enclosure>{slope}, std::vector<Enclosure>{Enclosure(value)},
                       std::vector<double>{centre}, box);
    };
    CHECK(take({2, 4}, 0.25, 1.5) == IntervalNewton::Result::one_zero);
    CHECK(box[0].contains(std::sqrt(2.0)));
    box = {{2, 3}};
    CHECK(take({4, 6}, 4.25, 2.5) == IntervalNewton::Result::no_zero);
    box = {{-2, 2}};
    CHECK(take({-4, 4}, -1, 0) == IntervalNewton::Result::nothing);
    REQUIRE(step.gap());
    CHECK(step.gap()->without.lower == doctest::Approx(-0.25));
    CHECK(step.gap()->without.upper == doctest::Approx(0.25));
  }

  TEST_CASE("all zeros of a system are found, with a proof of each; a double one is left undecided") {
    const std::vector<Enclosure> region{{-2, 2}, {-2, 2}};
    struct Row {
      double shift;
      std::size_t zeros;
    };
    for (const Row& row : {Row{-3, 0}, Row{-1.125, 4}, Row{0, 2}, Row{2, 0}}) {
      CircleAndParabola system(row.shift);
      const Zeros found = find_zeros(system, region, {});
      CAPTURE(row.shift);
      CHECK(found.is_complete());
      CHECK(found.zeros.size() == row.zeros);
      for (const Zero& zero : found.zeros) {
        CHECK(zero.box[0].width() < 1e-12);
        const double x = zero.box[0].middle(), y = zero.box[1].middle();
        CHECK(std::abs(x * x + y * y - 1) < 1e-12);
        CHECK(std::abs(x * x + row.shift - y) < 1e-12);
      }
    }
    CircleAndParabola touching(1);
    const Zeros found = find_zeros(touching, region, {});
    CHECK_FALSE(found.is_complete());
    CHECK(found.zeros.empty());
    int asked = 0;
    CircleAndParabola again(-1.125);
    const Zeros stopped = find_zeros(again, region, {.should_stop = [&] { return ++asked > 0; }});
    CHECK_FALSE(stopped.is_finished);
    CHECK(!stopped.undecided.empty());
  }

  TEST_CASE("signs of eigenvalues are certain for all matrices within an enclosure") {
    RandomStream random(8, {"matrices"});
    for (int k = 0; k < 200; ++k) {
      const Index n = 1 + random.below(5);
      Matrix middle(n, n);
      for (Index i = 0; i < n; ++i) {
        for (Index j = 0; j <= i; ++j) middle(i, j) = middle(j, i) = random.normal();
      }
      const double half = std::pow(10, random.uniform(-12, 0));
      std::vector<Enclosure> matrix;
      for (Index i = 0; i < n; ++i) {
        for (Index j = 0; j < n; ++j) matrix.emplace_back(middle(i, j) - half, middle(i, j) + half);
      }
      const Inertia found = inertia(matrix, n);
      CHECK(found.negative + found.unknown + found.positive == n);
      const Vector values = symmetric_eigenvalues(middle);
      if (half < 1e-9 && values.cwiseAbs().minCoeff() > 1e-6) CHECK(found.unknown == 0);
      for (int trial = 0; trial < 20; ++trial) {
        Matrix within = middle;
        for (Index i = 0; i < n; ++i) {
          for (Index j = 0; j <= i; ++j) within(i, j) = within(j, i) = middle(i, j) + random.uniform(-half, half);
        }
        const Vector of = symmetric_eigenvalues(within);
        CHECK((of.array() > 0).count() >= found.positive);
        CHECK((of.array() < 0).count() >= found.negative);
      }
    }
  }
}
