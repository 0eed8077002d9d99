#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/search/search_loop.hpp"

#include "support/differences.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

/// f + 3 c1 + 2 c2^2: a number of all parts, with a bend.
class Mixture final : public Scalarization {
 public:
  [[nodiscard]] double value(const Evaluation& at) const override {
    return at.objectives()[0] + 3 * at.constraints()[0] + 2 * std::pow(at.constraints()[1], 2);
  }
  void slopes(const Evaluation& at, Vector& by_part) const override {
    by_part = Vector{{1, 3, 4 * at.constraints()[1]}};
  }
  bool bends(const Evaluation& /*at*/, Vector& by_part) const override {
    by_part = Vector{{0, 0, 4}};
    return true;
  }
};

Problem bundled() {
  return Problem::from_formula("x^2*y + exp(y)")
      .with_constraint("disc", "x*x + y*y <= 4")
      .with_constraint("curve", "sin(x) = y")
      .named("bundled");
}

} // namespace

TEST_SUITE("views of one bundle") {
  TEST_CASE("gradient, Hessian and products of any scalarization follow from its slopes and bends") {
    const Problem problem = bundled();
    Evaluator evaluate(problem, {}, DerivativeMode::automatic);
    const Mixture mixture;
    Evaluator view = evaluate.with(mixture);
    const auto value = [&](const Vector& x) { return view(x); };
    for (const Vector& x : {Vector{{0.7, -0.3}}, Vector{{-1.2, 1}}}) {
      const Vector gradient = view.gradient(x);
      const Matrix hessian = view.hessian(x);
      for (Index i = 0; i < 2; ++i) {
        CHECK(gradient[i] == doctest::Approx(testing::eighth_order_difference(value, x, i).value).epsilon(1e-8));
        const auto slope = [&](const Vector& p) { return view.gradient(p)[i]; };
        for (Index j = 0; j < 2; ++j)
          CHECK(hessian(i, j) == doctest::Approx(testing::eighth_order_difference(slope, x, j).value).epsilon(1e-7));
      }
      Vector product;
      const Vector direction{{0.4, -2}};
      view.hessian_times(x, gradient, direction, product);
      CHECK((product - hessian * direction).norm() <= 1e-12 * (1 + hessian.norm()));
      CHECK(view.value_and_gradient(x).value == view(x));
      CHECK(view.value_and_gradient(x).gradient == gradient);
    }
  }

  TEST_CASE(
      "an evaluation is one visit whatever is asked there, and a gradient one sweep however many parts there are") {
    const Problem problem = bundled();
    Evaluator evaluate(problem, {}, DerivativeMode::automatic);
    const Mixture mixture;
    Evaluator view = evaluate.with(mixture);
    const Vector x{{0.5, 0.25}};
    (void)evaluate.at(x);
    CHECK(evaluate.counts() == Counts(Counts::Numbers{1, 0, 0}));
    (void)view.gradient(x);
    CHECK(evaluate.counts() == Counts(Counts::Numbers{1, 1, 0}));
    (void)view.hessian(x);
    CHECK(evaluate.counts() == Counts(Counts::Numbers{1, 1, 1}));
    (void)view.jacobian(x); // one for each function
    CHECK(evaluate.counts() == Counts(Counts::Numbers{1, 4, 1}));
    CHECK(view.constraint_rows().row(0) == Vector{{1, 0.5}}.transpose());
  }

  TEST_CASE("the incumbent looks at objectives and violation, whatever the view says") {
    const Problem problem = bundled();
    Evaluator evaluate(problem, {}, DerivativeMode::automatic);
    const Mixture mixture;
    Evaluator view = evaluate.with(mixture);
    (void)view(Vector{{3, 0}}); // outside the disc by 5
    CHECK_FALSE(evaluate.incumbent().is_feasible());
    CHECK(evaluate.incumbent().violation() == 5);
    (void)view(Vector{{0, 0.5}}); // off the curve by a half
    CHECK(evaluate.incumbent().violation() == 0.5);
    (void)view(Vector{{1, std::sin(1)}});
    REQUIRE(evaluate.incumbent().is_feasible());
    CHECK(evaluate.incumbent().value() == doctest::Approx(std::sin(1) + std::exp(std::sin(1))));
    (void)view(Vector{{-3, -9}}); // lower and infeasible
    CHECK(evaluate.incumbent().point() == Vector{{1, std::sin(1)}});
  }

  TEST_CASE("a limit that comes inside an inner method ends the run through both, and the best is kept") {
    for (const std::int64_t limit : {1, 2, 7, 23, 61}) {
      CAPTURE(limit);
      const Outcome outcome =
          run(bundled().start({1, 1}), method("augmented-lagrangian"), {.stop = {.evaluations = limit}});
      CHECK(outcome.status == Status::evaluations);
      CHECK(outcome.counts[Spent::evaluations] == limit);
      CHECK(outcome.trace.at(outcome.trace.rows() - 1, Trace::evaluations) == static_cast<double>(limit));
    }
  }

  TEST_CASE("differences differentiate all parts at once") {
    const auto parts = [](const Vector& x, Vector& values) {
      values = Vector{{x[0] * x[1], x[0] - x[1], x.squaredNorm()}};
    };
    const Problem opaque = Problem::from_bundle(make_opaque_function(2, 3, parts), {Objective()},
                                                {{.name = "a", .lower = 0}, {.name = "b", .upper = 9}});
    Evaluator central(opaque, {}, DerivativeMode::central), forward(opaque, {}, DerivativeMode::forward);
    const Vector x{{2, -1}};
    const Matrix exact{{-1, 2}, {1, -1}, {4, -2}};
    CHECK((central.jacobian(x) - exact).norm() < 1e-7);
    CHECK(central.counts()[Spent::evaluations] == 4);
    CHECK((forward.jacobian(x) - exact).norm() < 1e-6);
    CHECK(forward.counts()[Spent::evaluations] == 3);
  }

  TEST_CASE("batches give the parts of all their points, with the counts and the best of one at a time") {
    const Problem problem = bundled();
    Evaluator at_once(problem, {}, DerivativeMode::automatic), one_by_one(problem, {}, DerivativeMode::automatic);
    const Matrix points = Matrix::Random(2, 150) * 3;
    const Evaluations& all = at_once.at(points);
    for (Index k = 0; k < points.cols(); ++k) {
      const Evaluation& at = one_by_one.at(Vector(points.col(k)));
      CHECK(all.parts.col(k) == at.parts());
      CHECK(all.violations[k] == at.violation);
    }
    CHECK(at_once.counts() == one_by_one.counts());
    CHECK(at_once.incumbent().point() == one_by_one.incumbent().point());
    Evaluator limited(problem, {.evaluations = 70}, DerivativeMode::automatic);
    CHECK_THROWS_AS((void)limited.at(points), RunEnded);
    CHECK(limited.counts()[Spent::evaluations] == 70);
  }
}

TEST_SUITE("abilities") {
  TEST_CASE("one sentence says what a method lacks, and which can") {
    const Problem constrained = bundled();
    const auto why = why_not(method("bfgs"), constrained);
    REQUIRE(why.has_value());
    CHECK(*why == "bfgs cannot keep equality constraints, and bundled has 1; these can: augmented-lagrangian, "
                  "sequential-quadratic, interior-point, linear-model, penalty, multistart, single-linkage, "
                  "basin-hopping, 6 more");
    CHECK_THROWS_WITH_AS((void)run(constrained, method("bfgs")), why->c_str(), ProblemError);
    CHECK_FALSE(why_not(method("bfgs"), constrained, {.constraints = true}).has_value());
    CHECK_FALSE(why_not(method("augmented-lagrangian"), constrained).has_value());
    CHECK(why_not(method("levenberg-marquardt"), constrained)
              ->starts_with("levenberg-marquardt works on a sum of squares"));
    CHECK(why_not(method("nondominated-sorting"), constrained)
              ->find("works on several objectives, and bundled has one") != std::string::npos);
  }

  TEST_CASE("a nested method is found in the catalogue that the outer one is from") {
    struct Nothing {
      static MethodCard card() {
        MethodCard card;
        card.able.bounds = true;
        return card;
      }
      void settings(Settings& /*list*/) {}
      Search search(Evaluator& /*evaluate*/, Start start) const {
        co_yield Iteration(start.point, start.value).settled("so");
      }
    };
    MethodCatalogue mine = standard_methods();
    mine.add("stands-still", Nothing{});
    const Problem problem = Problem::from_formula("x^2 + 3").bounds(-1, 2);
    CHECK(run(problem, mine.parse("multistart:local=stands-still"), {.stop = {.evaluations = 50}}).value < 4);
    CHECK_THROWS_AS((void)standard_methods().parse("multistart:local=stands-still"), InputError);
  }
}

TEST_SUITE("what is checked at the end") {
  TEST_CASE("a claim that the point contradicts is no convergence") {
    struct Liar {
      void settings(Settings& /*list*/) {}
      Search search(Evaluator& /*evaluate*/, Start start) const {
        co_yield Iteration(start.point, start.value).settled("so");
      }
    };
    const Problem bowl = Problem::from_formula("2*x^2 + 0.7*y^2");
    const Outcome lied = run(bowl, Method("liar", Liar{}), {.start = Coordinates{2.5, -1}});
    CHECK(lied.status == Status::method);
    CHECK_FALSE(lied.converged());
    CHECK(lied.checked.how.starts_with("not stationary"));
    CHECK(run(bowl, Method("liar", Liar{}), {.start = Coordinates{0, 0}}).converged());
    // At a kink the gradient says nothing, values do; a black box is looked at only where that was asked for.
    const Problem kink = Problem::from_formula("abs(x) + 2*abs(y)");
    CHECK(run(kink, Method("liar", Liar{}), {.start = Coordinates{1e-12, 0}}).converged());
    CHECK_FALSE(run(kink, Method("liar", Liar{}), {.start = Coordinates{1e-12, 0.1}}).converged());
    const Problem box = Problem::black_box(1, [](const Vector& x) { return std::abs(x[0] - 1); });
    const Outcome unchecked = run(box, Method("liar", Liar{}), {.start = Coordinates{2}});
    CHECK(unchecked.converged());
    CHECK(unchecked.checked.how == "not checked: values only (--check-end)");
    const Outcome checked = run(box, Method("liar", Liar{}), {.start = Coordinates{2}, .check_end = true});
    CHECK_FALSE(checked.converged());
    CHECK(checked.counts[Spent::evaluations] == 1);
    CHECK(checked.checked.evaluations > 0);
  }

  TEST_CASE("multipliers of a point are those of its active rows and bounds, with their signs in the user's sense") {
    // Minimize x + y on the disc of radius 2: at (-sqrt 2, -sqrt 2), one more unit of the limit 4 changes -2 sqrt 2 by
    // -1 / (2 sqrt 2).
    const Problem disc = Problem::from_formula("x + y").with_constraint("disc", "x*x + y*y <= 4");
    const Vector at = Vector::Constant(2, -std::sqrt(2.0));
    const PointCheck least = check_point(disc, at);
    CHECK(least.verdict == PointCheck::Verdict::stationary);
    CHECK(least.constraints[0].multiplier == doctest::Approx(-1 / (2 * std::sqrt(2.0))));
    CHECK(least.kkt < 1e-12);
    // The largest is at the other end, and grows with the limit.
    const PointCheck most = check_point(disc.maximized(), -at);
    CHECK(most.verdict == PointCheck::Verdict::stationary);
    CHECK(most.constraints[0].multiplier == doctest::Approx(1 / (2 * std::sqrt(2.0))));
    // There the smallest is not to be had: the multiplier's sign is wrong, and least squares with signs leaves the
    // slope.
    CHECK(check_point(disc, -at).verdict == PointCheck::Verdict::not_stationary);
    const Problem fenced =
        Problem::from_formula("3*x + y^2").bounds({1, -5}, {2, 5}).with_constraint("far", "x + y <= 9");
    const PointCheck bound = check_point(fenced, Vector{{1, 0}});
    CHECK(bound.verdict == PointCheck::Verdict::stationary);
    CHECK(bound.bound_multipliers == Vector{{3, 0}});
    CHECK_FALSE(bound.constraints[0].active);
    CHECK(check_point(fenced, Vector{{3, 9}}).how.starts_with("not feasible: violation"));
  }
}
