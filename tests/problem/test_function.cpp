#include "tanzen/base/errors.hpp"
#include "tanzen/expression/expression.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/problem/transform.hpp"
#include "tanzen/search/point_check.hpp"

#include "support/differences.hpp"

#include <doctest/doctest.h>

#include <atomic>
#include <cmath>

using namespace tanzen;

namespace {

/// Three values of two variables, as numbers and as expressions.
template <class Number>
std::vector<Number> three_of(const Number& x, const Number& y) {
  using std::exp, std::sin, std::pow;
  return {x * x * y + exp(y), sin(x) - 3 * y, pow(x - y, 3)};
}

FunctionPointer on_a_tape() {
  const Expressions none(std::make_shared<Graph>(2), {});
  return make_function(none.with([](const TracedPoint& x) { return three_of<Expr>(x[0], x[1]); }));
}

FunctionPointer only_called() {
  return make_opaque_function(2, 3, [](const Vector& x, Vector& values) {
    const auto three = three_of(x[0], x[1]);
    std::ranges::copy(three, values.begin());
  });
}

/// One after the other, cut into a first and a rest.
FunctionPointer one_and_two() {
  const Expressions none(std::make_shared<Graph>(2), {});
  const auto some = [&](std::size_t from, std::size_t to) {
    return make_function(none.with([&](const TracedPoint& x) {
      const auto all = three_of<Expr>(x[0], x[1]);
      return std::vector<Expr>(all.begin() + static_cast<std::ptrdiff_t>(from),
                               all.begin() + static_cast<std::ptrdiff_t>(to));
    }));
  };
  return stacked({some(0, 1), some(1, 3)});
}

struct Kind {
  std::string name;
  FunctionPointer function;
  double accuracy; ///< of first derivatives
};

std::vector<Kind> differentiable_kinds() {
  return {{"a tape", on_a_tape(), 1e-8},
          {"stacked tapes", one_and_two(), 1e-8},
          {"differences of calls", with_differences(only_called()), 1e-6}};
}

const std::vector<Vector> places = {Vector{{0.7, -0.4}}, Vector{{-1.3, 0.9}}, Vector{{2, 0.1}}};

} // namespace

TEST_SUITE("functions of several values") {
  TEST_CASE("all kinds give the same values, one at a time and many at once") {
    std::vector<Kind> kinds = differentiable_kinds();
    kinds.push_back({"calls", only_called(), 0});
    for (const Kind& kind : kinds) {
      CAPTURE(kind.name);
      CHECK(kind.function->dimension() == 2);
      CHECK(kind.function->outputs() == 3);
      const auto worker = kind.function->worker();
      Matrix points(2, static_cast<Index>(places.size())), all;
      Vector values, firsts;
      for (std::size_t k = 0; k < places.size(); ++k) points.col(static_cast<Index>(k)) = places[k];
      worker->outputs(points, all);
      worker->values(points, firsts);
      REQUIRE(all.rows() == 3);
      REQUIRE(all.cols() == points.cols());
      for (Index k = 0; k < points.cols(); ++k) {
        const auto expected = three_of(points(0, k), points(1, k));
        worker->outputs(points.col(k), values);
        CHECK(all.col(k) == values); // the same bits
        CHECK(firsts[k] == values[0]);
        CHECK(worker->value(points.col(k)) == values[0]);
        for (Index i = 0; i < 3; ++i)
          CHECK(values[i] == doctest::Approx(expected[static_cast<std::size_t>(i)]).epsilon(1e-13));
      }
    }
  }

  TEST_CASE("Jacobian, products and weighted gradients are those of the values") {
    for (const Kind& kind : differentiable_kinds()) {
      CAPTURE(kind.name);
      const auto worker = kind.function->worker();
      for (const Vector& x : places) {
        Matrix jacobian;
        worker->jacobian(x, jacobian);
        REQUIRE(jacobian.rows() == 3);
        REQUIRE(jacobian.cols() == 2);
        for (Index row = 0; row < 3; ++row) {
          const auto output = [&](const Vector& at) { return three_of(at[0], at[1])[static_cast<std::size_t>(row)]; };
          for (Index i = 0; i < 2; ++i)
            CHECK(jacobian(row, i) ==
                  doctest::Approx(testing::eighth_order_difference(output, x, i).value).epsilon(kind.accuracy));
        }
        const Vector direction{{0.3, -1.7}}, weights{{2, -0.5, 4}};
        Vector product, gradient;
        worker->jacobian_times(x, direction, product);
        CHECK((product - jacobian * direction).norm() <= 10 * kind.accuracy * (1 + jacobian.norm()));
        worker->weighted_gradient(x, weights, gradient);
        CHECK((gradient - jacobian.transpose() * weights).norm() <= 10 * kind.accuracy * (1 + jacobian.norm()));
        Vector first;
        CHECK(worker->gradient(x, first) == worker->value(x));
        CHECK((first - jacobian.row(0).transpose()).norm() <= 10 * kind.accuracy * (1 + jacobian.norm()));
      }
    }
  }

  TEST_CASE("weighted Hessians are the change of weighted gradients") {
    for (const Kind& kind : {differentiable_kinds()[0], differentiable_kinds()[1]}) {
      CAPTURE(kind.name);
      REQUIRE(kind.function->derivatives() == Derivatives::hessian);
      const auto worker = kind.function->worker();
      const Vector weights{{1, -2, 0.5}}, direction{{-0.8, 0.6}};
      for (const Vector& x : places) {
        Matrix hessian;
        worker->weighted_hessian(x, weights, hessian);
        CHECK(hessian == hessian.transpose());
        for (Index i = 0; i < 2; ++i) {
          const auto slope = [&](const Vector& at) {
            Vector gradient;
            worker->weighted_gradient(at, weights, gradient);
            return gradient[i];
          };
          for (Index j = 0; j < 2; ++j)
            CHECK(hessian(i, j) == doctest::Approx(testing::eighth_order_difference(slope, x, j).value).epsilon(1e-8));
        }
        Vector product;
        worker->weighted_hessian_times(x, weights, direction, product);
        CHECK((product - hessian * direction).norm() <= 1e-13 * (1 + hessian.norm()));
      }
    }
  }

  TEST_CASE("a weighted gradient is that of the point it is asked at, whatever was visited between") {
    const FunctionPointer function = on_a_tape();
    const auto worker = function->worker();
    const Vector weights = Vector::Ones(3);
    Vector values, before, after;
    worker->outputs(places[0], values);
    worker->weighted_gradient(places[0], weights, before);
    worker->outputs(places[1], values);
    (void)worker->value(places[2]);
    worker->weighted_gradient(places[0], weights, after);
    CHECK(before == after);
  }

  TEST_CASE("derivatives that a function has not are refused, and stacking keeps what all have") {
    const FunctionPointer calls = only_called();
    CHECK(calls->derivatives() == Derivatives::none);
    Vector gradient;
    CHECK_THROWS_AS(calls->worker()->gradient(places[0], gradient), ProblemError);
    CHECK(stacked({on_a_tape(), calls})->derivatives() == Derivatives::none);
    CHECK(stacked({on_a_tape(), on_a_tape()})->outputs() == 6);
    CHECK(stacked({on_a_tape(), on_a_tape()})->derivatives() == Derivatives::hessian);
    const auto wider = make_opaque_function(3, [](const Vector& x) { return x.sum(); });
    CHECK_THROWS_AS((void)stacked({calls, wider}), ProblemError);
  }

  TEST_CASE("a callable that must be called by one thread at a time says so through every wrapping") {
    const auto sum = [](const Vector& x) { return x.sum(); };
    const FunctionPointer alone = make_opaque_function(2, sum);
    const FunctionPointer shared = make_opaque_function(2, sum, Calls::concurrent);
    CHECK_FALSE(alone->is_concurrent());
    CHECK(shared->is_concurrent());
    CHECK_FALSE(stacked({shared, alone})->is_concurrent());
    CHECK(stacked({shared, on_a_tape()})->is_concurrent());
    const Problem moved =
        transformed(Problem::from_objective(alone).region({-1, -1}, {1, 1}), {.shift = Coordinates{1, 0}});
    CHECK_FALSE(moved.objective().is_concurrent());
  }
}

TEST_SUITE("changes of variables") {
  TEST_CASE("all parts are those of the changed point: objectives, constraints, residuals") {
    const Problem plain = Problem::from_formula("x^2 + 3*y")
                              .region({-2, -2}, {2, 2})
                              .with_constraint("disc", "x*x + y <= 2")
                              .with_constraint("line", "x - y = 0.5");
    const Transform turn{.rotation = 4, .stretch = 3, .ripple = true, .lean = 0.3};
    const Problem turned = transformed(plain, turn);
    // The map of points, by a bundle that is the point itself.
    const Expressions none(std::make_shared<Graph>(2), {});
    const Problem itself = Problem::from_bundle(make_function(none.with([](const TracedPoint& x) {
                                                  return std::vector<Expr>{x[0] + 0, x[1] + 0};
                                                })),
                                                {{.name = "first"}, {.name = "second"}})
                               .region({-2, -2}, {2, 2});
    const Problem moved = transformed(itself, turn);
    const auto places_of = moved.bundle()->worker();
    for (const Vector& x : places) {
      Vector z;
      places_of->outputs(x, z);
      CHECK((z - x).norm() > 1e-3);
      CHECK(turned.value(x) == doctest::Approx(plain.value(z)).epsilon(1e-12));
      CHECK((turned.constraint_values(x) - plain.constraint_values(z)).norm() <= 1e-12 * (1 + z.norm()));
    }
    CHECK(turned.constraints().size() == 2);
    CHECK(turned.constraints()[1].is_equality());
    CHECK(turned.objective().derivatives() == Derivatives::hessian);
  }

  TEST_CASE("a problem that is only called is called at the same points as one with derivatives, by one worker") {
    const auto value = [](const auto& x) { return pow(x[0] - 1, 2) + x[0] * x[1] + 2 * pow(x[1], 4); };
    const Problem traced = Problem::from_function(2, value).region({-2, -2}, {2, 2});
    const Problem called = Problem::black_box(2, [](const Vector& x) {
                             return std::pow(x[0] - 1, 2) + x[0] * x[1] + 2 * std::pow(x[1], 4);
                           }).region({-2, -2}, {2, 2});
    for (const Transform& change : {Transform{.rotation = 2}, Transform{.ripple = true}, Transform{.bias = 4},
                                    Transform{.shift = Coordinates{1, -1}, .stretch = 10, .bias = -2}}) {
      const Problem exact = transformed(traced, change), opaque = transformed(called, change);
      CHECK(opaque.objective().derivatives() == Derivatives::none);
      for (const Vector& x : places) CHECK(opaque.value(x) == doctest::Approx(exact.value(x)).epsilon(1e-12));
    }
  }

  TEST_CASE("workers are made once for a worker, not for every call") {
    class Counted final : public VectorFunction {
     public:
      explicit Counted(std::atomic<int>& made) : made_(made) {}
      [[nodiscard]] Index dimension() const override { return 2; }
      [[nodiscard]] Derivatives derivatives() const override { return Derivatives::none; }
      [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& /*waiting*/) const override {
        ++made_;
        class Sum final : public FunctionWorker {
         public:
          double value(const Vector& x) override { return x.sum(); }
        };
        return std::make_unique<Sum>();
      }

     private:
      std::atomic<int>& made_;
    };
    std::atomic<int> made = 0;
    const Problem moved =
        transformed(Problem::from_objective(std::make_shared<Counted>(made)).region({-1, -1}, {1, 1}), {.rotation = 3});
    const int before = made;
    const auto worker = moved.objective().worker();
    for (int k = 0; k < 50; ++k) (void)worker->value(places[0]);
    CHECK(made - before == 1);
  }

  TEST_CASE("what cannot be changed says why, and nothing changes nothing") {
    const Problem free = Problem::from_formula("x + 2*y").region({-1, -1}, {1, 1});
    CHECK(transformed(free, {}).value({3, 4}) == 11);
    CHECK(transformed(free, {}).expression() == free.expression());
    const Problem fenced = free.bounds({0, 0}, {1, 1});
    CHECK_THROWS_AS((void)transformed(fenced, {.rotation = 1}), ProblemError);
    CHECK_THROWS_AS((void)transformed(fenced, {.ripple = true}), ProblemError);
    const Problem shifted = transformed(fenced, {.shift = Coordinates{2, 3}});
    CHECK(shifted.bounds().lower() == Vector{{2, 3}});
    CHECK(shifted.bounds().upper() == Vector{{3, 4}});
    CHECK(shifted.value({2, 3}) == 0);
    CHECK_THROWS_AS((void)transformed(free.noisy({.level = 0.1}), {.rotation = 1}), ProblemError);
    CHECK_THROWS_AS((void)transformed(free, {.shift = Coordinates{1, 2, 3}}), ProblemError);
  }

  TEST_CASE("a random rotation is orthogonal, its own for each seed, and turns no way more often than another") {
    for (const Index n : {1, 2, 5, 30}) {
      const Matrix q = random_rotation(n, 7);
      CHECK((q.transpose() * q - Matrix::Identity(n, n)).norm() <= 1e-13 * static_cast<double>(n));
      CHECK(q == random_rotation(n, 7));
    }
    CHECK((random_rotation(4, 1) - random_rotation(4, 2)).norm() > 0.1);
    // Uniform in the sense of Haar: the mean of every entry is 0, of its square 1/n.
    constexpr int draws = 4000;
    Matrix mean = Matrix::Zero(3, 3), square = Matrix::Zero(3, 3);
    for (int k = 1; k <= draws; ++k) {
      const Matrix q = random_rotation(3, static_cast<std::uint64_t>(k));
      mean += q / draws;
      square += q.cwiseAbs2() / draws;
    }
    CHECK(mean.cwiseAbs().maxCoeff() < 0.04); // four standard errors
    CHECK((square.array() - 1.0 / 3).abs().maxCoeff() < 0.02);
  }
}

TEST_SUITE("relations") {
  TEST_CASE("every way of writing a limit is one row, and means the same set of points") {
    struct Written {
      const char* text;
      bool (*holds)(double, double);
    };
    for (const Written& written : {Written{"x <= 1", [](double x, double) { return x <= 1; }},
                                   {"1 >= x", [](double x, double) { return x <= 1; }},
                                   {"x >= y", [](double x, double y) { return x >= y; }},
                                   {"y <= x", [](double x, double y) { return x >= y; }},
                                   {"-1 <= x + y <= 2", [](double x, double y) { return x + y >= -1 && x + y <= 2; }},
                                   {"2 >= x + y >= -1", [](double x, double y) { return x + y >= -1 && x + y <= 2; }},
                                   {"x*y < 0.5", [](double x, double y) { return x * y <= 0.5; }},
                                   {"x^2 > y + 1", [](double x, double y) { return x * x >= y + 1; }}}) {
      CAPTURE(written.text);
      const Problem problem = Problem::from_formula("x + y").with_constraint("row", written.text);
      REQUIRE(problem.constraints().size() == 1);
      CHECK(problem.constraints()[0].name == "row");
      for (const double x : {-3.0, -1.0, 0.2, 1.0, 2.5})
        for (const double y : {-2.0, 0.0, 0.7, 3.0}) CHECK((problem.violation({x, y}) <= 1e-12) == written.holds(x, y));
    }
  }

  TEST_CASE("an equality has both limits alike, and its violation has no sign") {
    const Problem problem = Problem::from_formula("x + y").with_constraint("row", "x = y^2");
    const Constraint& row = problem.constraints().front();
    CHECK(row.is_equality());
    CHECK(problem.violation({4, 2}) == 0);
    CHECK(problem.violation({5, 2}) == 1);
    CHECK(problem.violation({3, 2}) == 1);
    CHECK(row.text == "x = y^2");
  }

  TEST_CASE("where a constraint has no value its violation has none either, whatever the other rows say") {
    const Problem one = Problem::from_formula("x + y").with_constraint("first", "log(x) <= 1");
    for (const Problem& problem : {one, one.with_constraint("second", "y <= 3")}) {
      CHECK(std::isnan(problem.violation({-1, 0})));
      CHECK(std::isnan(problem.violation({-1, 5})));
      CHECK(problem.violation({1, 0}) == 0);
      const PointCheck check = check_point(problem, Vector{{-1, 0}}, {});
      CHECK(check.verdict == PointCheck::Verdict::not_stationary);
      CHECK(check.how == "not feasible: a constraint has no value here");
    }
  }

  TEST_CASE("what is no relation is refused with what would be one") {
    const auto refused = [](const char* text, const char* says) {
      CAPTURE(text);
      CHECK_THROWS_WITH((void)Problem::from_formula("x + y").with_constraint("row", text), doctest::Contains(says));
    };
    refused("x + y", "compares two values");
    refused("0 <= x <= y <= 3", "at most two comparisons");
    refused("0 <= x >= 2", "go the same way");
    refused("x <= y <= 3", "must be numbers");
    refused("3 <= x <= 1", "lower limit 3 is above the upper one 1");
    refused("1 <= 2", "compares numbers alone");
    refused("x <= 0/0", "not a number");
  }
}
