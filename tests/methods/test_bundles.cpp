#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/problem/loss.hpp"
#include "tanzen/problem/scalarization.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/statistics/fronts.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

/// The best value where the disc's limit is moved.
double least_on_disc(double limit) {
  const Problem disc = Problem::from_formula("exp(x) + x*y + y^2")
                           .with_constraints({{.name = "disc", .upper = limit}}, [](const auto& x) {
                             return std::vector<Expr>{pow(x[0], 2) + pow(x[1], 2)};
                           });
  return run(disc, method("augmented-lagrangian"), {.start = Coordinates{0.3, 0.2}}).value;
}

std::shared_ptr<const DataTable> cooling_curve(Index rows, double outliers = 0) {
  auto table = std::make_shared<DataTable>(DataTable{{"minutes", "celsius"}, Matrix(rows, 2)});
  for (Index k = 0; k < rows; ++k) {
    const double t = 600.0 * static_cast<double>(k) / static_cast<double>(rows - 1);
    const bool is_off = outliers > 0 && k % 7 == 3;
    table->rows.row(k) << t,
        25 + 1100 * std::exp(-0.006 * t) + 2 * std::sin(17.0 * static_cast<double>(k)) + (is_off ? outliers : 0);
  }
  return table;
}

Problem fit_of(std::shared_ptr<const DataTable> table, const Loss& loss = {}) {
  ProblemDefinition definition{.name = "cooling"};
  definition.variables = {
      {.name = "room", .start = {10}}, {.name = "peak", .start = {800}}, {.name = "rate", .start = {0.01}}};
  definition.fit = FitDefinition{.data = "made up",
                                 .equations = {{.model = "celsius = room + peak*exp(-rate*minutes)"}},
                                 .loss = loss,
                                 .table = std::move(table)};
  return build_problem(definition);
}

} // namespace

TEST_SUITE("augmented Lagrangian") {
  TEST_CASE("its multiplier is what the best value changes by when the limit moves") {
    constexpr double limit = 1.5, moved = 1e-4;
    const Problem disc = Problem::from_formula("exp(x) + x*y + y^2").with_constraint("disc", "x*x + y*y <= 1.5");
    const Outcome outcome = run(disc, method("augmented-lagrangian"), {.start = Coordinates{0.3, 0.2}});
    CHECK(outcome.converged());
    CHECK(outcome.violation <= 1e-6);
    CHECK(outcome.checked.kkt < 1e-6);
    const double slope = (least_on_disc(limit + moved) - least_on_disc(limit - moved)) / (2 * moved);
    CHECK(outcome.checked.constraints[0].multiplier == doctest::Approx(slope).epsilon(1e-3));
  }

  TEST_CASE("equalities, rows with two limits, bounds and a maximum") {
    const Problem box = Problem::from_formula("x*y*z")
                            .bounds({0.1, 0.1, 0.1}, {10, 10, 10})
                            .with_constraint("edges", "x + y + z = 3")
                            .with_constraint("flat", "0.5 <= z <= 0.8")
                            .maximized();
    const Outcome outcome = run(box, method("augmented-lagrangian"), {.start = Coordinates{0.5, 0.5, 0.5}});
    CHECK(outcome.converged());
    CHECK((outcome.point - Vector{{1.1, 1.1, 0.8}}).norm() < 1e-6);
    CHECK(outcome.checked.constraints[0].multiplier == doctest::Approx(1.1 * 0.8).epsilon(1e-6));
    CHECK(outcome.checked.constraints[1].multiplier == doctest::Approx(1.1 * 1.1 - 1.1 * 0.8).epsilon(1e-5));
  }

  TEST_CASE("what a fit minimizes is its own loss, under constraints too") {
    for (const Loss::Kind kind : {Loss::Kind::squares, Loss::Kind::huber}) {
      const Problem fit = fit_of(cooling_curve(40), {.kind = kind});
      const double free = run(fit, method("levenberg-marquardt")).value;
      const Problem fenced = fit.with_constraint("top", "room + peak <= 1100");
      const Outcome outcome = run(fenced, method("augmented-lagrangian"), {.stop = {.evaluations = 100'000}});
      CHECK(outcome.violation <= 1e-6);
      CHECK(outcome.value > free);
      CHECK(outcome.value == doctest::Approx(fenced.value(outcome.point)).epsilon(1e-12));
      REQUIRE(outcome.checked.constraints.size() == 1);
      CHECK(outcome.checked.constraints[0].active);
      // Along the constraint nothing near is better.
      const Vector along{{1, -1, 0}}, rate{{0, 0, 1e-6}};
      for (const double length : {-0.05, 0.05}) {
        CHECK(fenced.value(Vector(outcome.point + length * along)) >= outcome.value - 1e-6);
        CHECK(fenced.value(Vector(outcome.point + length * 20 * rate)) >= outcome.value - 1e-6);
      }
    }
  }

  TEST_CASE("any local method inside, also without derivatives") {
    const Problem disc = Problem::from_formula("x + y").with_constraint("disc", "x*x + y*y <= 4");
    for (const char* local : {"nelder-mead", "quadratic-model", "powell"}) {
      CAPTURE(local);
      const Outcome outcome = run(disc, method("augmented-lagrangian", {{"local", local}}),
                                  {.start = Coordinates{1, 0.5}, .stop = {.evaluations = 50'000}});
      CHECK(outcome.violation <= 1e-6);
      CHECK(outcome.value == doctest::Approx(-2 * std::sqrt(2.0)).epsilon(1e-5));
    }
  }

  TEST_CASE("constraints that cannot be kept end infeasible, at a point of least violation") {
    const Problem torn = Problem::from_formula("x^2 + y")
                             .bounds({-5, -5}, {5, 5})
                             .with_constraint("low", "x + y <= -1")
                             .with_constraint("high", "x + y >= 1");
    const Outcome outcome = run(torn, method("augmented-lagrangian"), {.start = Coordinates{2, 2}});
    CHECK(outcome.status == Status::infeasible);
    CHECK_FALSE(outcome.converged());
    CHECK_FALSE(outcome.feasible);
    CHECK(outcome.violation == doctest::Approx(1).epsilon(1e-2));
  }
}

TEST_SUITE("fits") {
  TEST_CASE("rows of a table give the values and derivatives that the rows written out would") {
    const auto table = cooling_curve(70);
    const Problem fit = fit_of(table);
    const Problem unrolled = Problem::from_residuals(3, [&](const auto& p) {
      std::vector<Expr> residuals;
      for (Index k = 0; k < table->rows.rows(); ++k)
        residuals.push_back(table->rows(k, 1) - (p[0] + p[1] * exp(-p[2] * table->rows(k, 0))));
      return residuals;
    });
    for (const Vector& x : {Vector{{10, 800, 0.01}}, Vector{{25, 1100, 0.006}}}) {
      CHECK(fit.value(x) == doctest::Approx(unrolled.value(x)).epsilon(1e-14));
      CHECK((fit.gradient(x) - unrolled.gradient(x)).norm() <= 1e-12 * unrolled.gradient(x).norm());
      CHECK((fit.hessian(x) - unrolled.hessian(x)).norm() <= 1e-12 * unrolled.hessian(x).norm());
      Matrix a, b;
      fit.bundle()->worker()->jacobian(x, a);
      unrolled.bundle()->worker()->jacobian(x, b);
      CHECK((a - b).norm() <= 1e-13 * b.norm());
    }
  }

  TEST_CASE("Levenberg and Marquardt's method solves the set of 1981 that it was made for") {
    int solved = 0, of = 0;
    for (const testbed::TestFunction& function : testbed::all()) {
      if (!function.residuals || !function.start) continue;
      const Problem problem = testbed::problem(function.name);
      const Outcome outcome = run(problem, method("levenberg-marquardt"), {.stop = {.evaluations = 2000}});
      ++of;
      bool is_there = false;
      for (const KnownMinimum& minimum : problem.known_minima())
        is_there = is_there || std::abs(outcome.value - minimum.value) <= 1e-6 * (1 + std::abs(minimum.value));
      is_there = is_there || (outcome.gap && *outcome.gap <= 1e-6 * (1 + std::abs(*outcome.best_known)));
      solved += is_there ? 1 : 0;
    }
    CHECK(of == 34);
    CHECK(solved >= 31);
  }

  TEST_CASE("bounds are kept, and a robust loss passes over outliers") {
    const Problem fenced = fit_of(cooling_curve(70)).bounds({0, 0, 0.008}, {60, 2000, 0.1});
    const Outcome held = run(fenced, method("levenberg-marquardt"));
    CHECK(held.converged());
    CHECK(held.point[2] == 0.008);
    const auto spoilt = cooling_curve(70, 400);
    const Outcome squares = run(fit_of(spoilt), method("levenberg-marquardt"));
    const Outcome huber = run(fit_of(spoilt, Loss::parse("huber:5")), method("levenberg-marquardt"));
    const Outcome cauchy = run(fit_of(spoilt, Loss::parse("cauchy:5")), method("levenberg-marquardt"));
    CHECK(std::abs(squares.point[0] - 25) > 20);
    CHECK(std::abs(huber.point[0] - 25) < 5);
    CHECK(std::abs(cauchy.point[0] - 25) < 2);
    CHECK(huber.converged());
    CHECK(run(fit_of(spoilt, Loss::parse("huber:5")), method("lbfgs-bounded"), {.start = huber.point}).value ==
          doctest::Approx(huber.value).epsilon(1e-6));
  }

  TEST_CASE("losses have the slopes and bends of their values") {
    for (const char* text : {"squares", "huber:1.5", "cauchy:2"}) {
      const Loss loss = Loss::parse(text);
      CHECK(Loss::parse(loss.text()) == loss);
      for (const double r : {-4.0, -1.2, 0.3, 1.0, 7.0}) {
        const double h = 1e-5;
        CHECK(loss.slope(r) == doctest::Approx((loss.value(r + h) - loss.value(r - h)) / (2 * h)).epsilon(1e-8));
        CHECK(loss.bend(r) == doctest::Approx((loss.slope(r + h) - loss.slope(r - h)) / (2 * h)).epsilon(1e-6));
      }
    }
    CHECK_THROWS_WITH_AS((void)Loss::parse("hubr"), doctest::Contains("did you mean 'huber'?"), InputError);
    CHECK_THROWS_AS((void)Loss::parse("huber:-1"), InputError);
  }

  TEST_CASE("the sum of a loss is that of its values, however large or small the residuals") {
    PartCounts counts;
    counts.objectives = 0;
    counts.residuals = 1000;
    const Vector weights = Vector::LinSpaced(counts.residuals, 0.5, 2);
    for (const char* text : {"squares", "huber:1.5", "cauchy:2", "absolute:1", "tukey:3"}) {
      const Loss loss = Loss::parse(text);
      for (const double size : {1e-120, 1e-9, 1.0, 1e3, 1e70, 1e140}) {
        CAPTURE(text);
        CAPTURE(size);
        Vector residuals = size * Vector::LinSpaced(counts.residuals, -1, 3);
        residuals[500] = 1e120; // an outlier among them
        long double sum = 0, weighted = 0;
        for (Index k = 0; k < counts.residuals; ++k) {
          sum += loss.value(residuals[k]);
          weighted += loss.value(weights[k] * residuals[k]);
        }
        const Evaluation at(residuals, counts);
        CHECK(std::abs(LossSum(loss).value(at) / static_cast<double>(sum) - 1) < 1e-12);
        CHECK(std::abs(LossSum(loss, weights).value(at) / static_cast<double>(weighted) - 1) < 1e-12);
        residuals[500] = 0; // beside it small ones were rounded away
        sum = 0;
        for (const double r : residuals) sum += loss.value(r);
        CHECK(std::abs(LossSum(loss).value(Evaluation(residuals, counts)) / static_cast<double>(sum) - 1) < 1e-12);
      }
      Vector broken = Vector::Ones(counts.residuals);
      broken[3] = std::nan("");
      CHECK(std::isnan(LossSum(loss).value(Evaluation(broken, counts))));
    }
  }
}

TEST_SUITE("fronts") {
  TEST_CASE("ranks and volumes of small sets, by hand") {
    const Matrix points{{1, 2, 3, 2, 4}, {4, 2, 1, 3, 4}};
    CHECK(nondominated_ranks(points) == std::vector<int>{0, 0, 0, 1, 2});
    CHECK(hypervolume(points, Vector{{5, 5}}) == 4 * 1 + 3 * 2 + 2 * 1);
    CHECK(hypervolume(Matrix{{1.0}, {2.0}, {3.0}}, Vector{{4, 4, 4}}) == 3 * 2 * 1);
    const Matrix two{{1, 2}, {1, 2}, {2, 1}};
    CHECK(hypervolume(two, Vector{{3, 3, 3}}) == 4 + 2 - 1);
    CHECK(hypervolume(points, Vector{{1, 1}}) == 0);
  }

  TEST_CASE("nondominated sorting finds the front between two bowls, each objective in its sense") {
    // The squared distances from (0, 0) and from (2, 0): the front is the line between them.
    const Problem bowls =
        Problem::from_formula("x*x + y*y")
            .with_objective({.name = "nearness", .sense = Sense::maximize, .text = "-(x - 2)^2 - y^2"})
            .named("bowls")
            .region({-4, -4}, {6, 4});
    const Outcome outcome = run(bowls, method("nondominated-sorting"), {.seed = 3, .stop = {.evaluations = 8000}});
    REQUIRE(outcome.front.size() > 100);
    double off = 0;
    for (const FrontPoint& each : outcome.front) {
      off = std::max(off, std::abs(each.point[1]));
      CHECK(each.objectives[1] == doctest::Approx(-std::pow(each.point[0] - 2, 2) - std::pow(each.point[1], 2)));
    }
    CHECK(off < 0.15);
    CHECK(outcome.front.front().objectives[0] < 0.01);
    CHECK(outcome.front.back().objectives[1] > -0.01);
    const Outcome again = run(bowls, method("nondominated-sorting"), {.seed = 3, .stop = {.evaluations = 8000}});
    CHECK(again.value == outcome.value);
    const Problem fenced = bowls.with_constraint("right", "x >= 1");
    for (const FrontPoint& each : run(fenced, method("nondominated-sorting"), {.stop = {.evaluations = 4000}}).front)
      CHECK(each.point[0] >= 1 - 1e-6);
  }
}
