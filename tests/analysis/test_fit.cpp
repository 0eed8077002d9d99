#include "support/text.hpp"
#include "tanzen/analysis/fit_hints.hpp"
#include "tanzen/analysis/fit_intervals.hpp"
#include "tanzen/analysis/fit_statistics.hpp"
#include "tanzen/analysis/fitting.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/random.hpp"
#include "tanzen/problem/definition.hpp"

#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <functional>

using namespace tanzen;

namespace {

struct Model {
  std::string equation; ///< y = formula of x and parameters
  std::vector<std::string> parameters;
  Vector truth;
  std::function<double(double, const Vector&)> value;
};

const std::vector<Model>& models() {
  static const std::vector<Model> all = {
      {"y = a*exp(-b*x) + c",
       {"a", "b", "c"},
       Vector{{9, 0.4, 2}},
       [](double x, const Vector& p) { return p[0] * std::exp(-p[1] * x) + p[2]; }},
      {"y = a*x/(b + x)",
       {"a", "b"},
       Vector{{12, 1.5}},
       [](double x, const Vector& p) { return p[0] * x / (p[1] + x); }},
      {"y = a/(1 + exp(b - c*x))",
       {"a", "b", "c"},
       Vector{{10, 3, 1.1}},
       [](double x, const Vector& p) { return p[0] / (1 + std::exp(p[1] - p[2] * x)); }},
      {"y = a + b*x", {"a", "b"}, Vector{{2, -1.5}}, [](double x, const Vector& p) { return p[0] + p[1] * x; }},
      {"y = a*exp(-((x - b)/c)^2)",
       {"a", "b", "c"},
       Vector{{8, 4, 1.8}},
       [](double x, const Vector& p) { return p[0] * std::exp(-std::pow((x - p[1]) / p[2], 2)); }},
  };
  return all;
}

/// `rows` observations of a model over 0.2 to 8 with normal errors; every tenth is thrown off by so many of them.
Problem data_of(const Model& model, Index rows, double sigma, std::uint64_t seed, double thrown = 0,
                const Loss& loss = {}) {
  RandomStream random(seed, {"fit", model.equation});
  DataTable table{.columns = {"x", "y"}, .rows = Matrix(rows, 2)};
  for (Index k = 0; k < rows; ++k) {
    const double x = 0.2 + 7.8 * static_cast<double>(k) / static_cast<double>(rows - 1);
    double y = model.value(x, model.truth) + sigma * random.normal();
    if (k % 10 == 4) y += thrown * sigma;
    table.rows.row(k) << x, y;
  }
  ProblemDefinition definition{.name = "made"};
  for (std::size_t i = 0; i < model.parameters.size(); ++i)
    definition.variables.push_back({.name = model.parameters[i], .start = {1.1 * model.truth[static_cast<Index>(i)]}});
  definition.fit = FitDefinition{.data = "made.csv",
                                 .equations = {{.model = model.equation}},
                                 .loss = loss,
                                 .table = std::make_shared<DataTable>(std::move(table))};
  return build_problem(definition);
}

Fit fitted(const Problem& problem, const FitOptions& options = {}) {
  return fit(problem, method("levenberg-marquardt"), options);
}

Problem from_table(const std::string& equation, std::vector<std::string> columns, const Matrix& rows,
                   std::vector<VariableDefinition> parameters, const std::string& errors = "") {
  ProblemDefinition definition{.name = "made", .variables = std::move(parameters)};
  definition.fit = FitDefinition{.data = "made.csv",
                                 .equations = {{.model = equation, .errors = errors}},
                                 .table = std::make_shared<DataTable>(DataTable{std::move(columns), rows})};
  return build_problem(definition);
}

bool is_hinted(const Fit& made, std::string_view part) {
  return testing::one_contains(fit_hints(made, fit_statistics(made.problem, made.outcome.point)), part);
}

} // namespace

TEST_SUITE("fits") {
  TEST_CASE("a straight line has the errors, the variance and the leverages of the textbook") {
    Matrix rows(5, 2);
    rows << 1, 2.1, 2, 3.9, 3, 6.2, 4, 7.8, 5, 10.1;
    const Problem line =
        from_table("y = a + b*x", {"x", "y"}, rows, {{.name = "a", .start = {0}}, {.name = "b", .start = {1}}});
    const Fit made = fitted(line);
    const FitStatistics fit = fit_statistics(made.problem, made.outcome.point);
    // By the formulas for one predictor: Sxx = 10, x mean 3.
    const double b = 1.99, a = 6.02 - 3 * b;
    double rest = 0;
    for (Index k = 0; k < 5; ++k) rest += std::pow(rows(k, 1) - a - b * rows(k, 0), 2);
    const double variance = rest / 3;
    CHECK(made.outcome.point[0] == doctest::Approx(a).epsilon(1e-10));
    CHECK(made.outcome.point[1] == doctest::Approx(b).epsilon(1e-10));
    CHECK(fit.residual_sd == doctest::Approx(std::sqrt(variance)).epsilon(1e-9));
    CHECK(fit.parameters[0].error == doctest::Approx(std::sqrt(variance * (0.2 + 9.0 / 10))).epsilon(1e-9));
    CHECK(fit.parameters[1].error == doctest::Approx(std::sqrt(variance / 10)).epsilon(1e-9));
    CHECK(fit.correlation(0, 1) == doctest::Approx(-3 / std::sqrt(11.0)).epsilon(1e-9));
    CHECK(fit.parameters[1].upper - b == doctest::Approx(3.182446305284263 * std::sqrt(variance / 10)).epsilon(1e-9));
    CHECK(fit.leverages[0] == doctest::Approx(0.2 + 4.0 / 10));
    CHECK(fit.leverages.sum() == doctest::Approx(2));
    CHECK(fit.r_squared == doctest::Approx(1 - rest / (rows.col(1).array() - 6.02).square().sum()));
    // Without the third row the others have a variance of their own, by which its residual is measured.
    const double third = rows(2, 1) - a - 3 * b, left = 1 - 0.2;
    CHECK(fit.studentized[2] ==
          doctest::Approx(third / std::sqrt((rest - third * third / left) / 2 * left)).epsilon(1e-9));
    const Prediction at_six = predict(made.problem, fit, Vector{{6, 0}});
    CHECK(at_six.value == doctest::Approx(a + 6 * b));
    CHECK(at_six.error == doctest::Approx(std::sqrt(variance * (0.2 + 9.0 / 10))));
    CHECK(at_six.half_width_of_new == doctest::Approx(3.182446305284263 * std::sqrt(variance * (1.2 + 9.0 / 10))));
  }

  TEST_CASE("a row that is thrown off stands out, and among many good ones hardly any does") {
    int told = 0;
    for (std::uint64_t seed = 1; seed <= 100; ++seed) {
      Problem problem = data_of(models()[3], 200, 0.1, seed);
      told += !fit_statistics(problem, run(problem, method("levenberg-marquardt")).point).stand_out.empty();
    }
    CHECK(told <= 12); // one of twenty, by chance
    Matrix rows(12, 2);
    for (Index k = 0; k < 12; ++k)
      rows.row(k) << static_cast<double>(k), 2.0 * static_cast<double>(k) + (k % 3 == 0 ? 0.1 : -0.05);
    rows(7, 1) += 3;
    const Fit made =
        fitted(from_table("y = a + b*x", {"x", "y"}, rows, {{.name = "a", .start = {0}}, {.name = "b", .start = {1}}}));
    CHECK(fit_statistics(made.problem, made.outcome.point).stand_out == std::vector<Index>{7});
    // A loss that does not hear the row must not hide it either.
    const Fit robust = fitted(made.problem.with_loss(Loss::parse("tukey")), {.estimate_scale = true});
    CHECK(fit_statistics(robust.problem, robust.outcome.point).stand_out == std::vector<Index>{7});
  }

  TEST_CASE("errors of the data weigh the rows, and repeated rows tell a lack of fit") {
    Matrix rows(8, 3);
    rows << 1, 1.0, 0.1, 1, 1.2, 0.1, 2, 4.1, 0.1, 2, 3.9, 0.1, 3, 9.2, 0.2, 3, 8.8, 0.2, 4, 16.1, 0.4, 4, 15.7, 0.4;
    const auto parameters = std::vector<VariableDefinition>{{.name = "a", .start = {0}}, {.name = "b", .start = {1}}};
    const Fit line = fitted(from_table("y = a + b*x", {"x", "y", "sd"}, rows, parameters, "sd"));
    const FitStatistics bent = fit_statistics(line.problem, line.outcome.point);
    REQUIRE(bent.lack_of_fit);
    CHECK(bent.lack_of_fit->groups == 4);
    CHECK(bent.lack_of_fit->p < 0.01);
    const Fit parabola = fitted(from_table("y = a + b*x^2", {"x", "y", "sd"}, rows, parameters, "sd"));
    CHECK(fit_statistics(parabola.problem, parabola.outcome.point).lack_of_fit->p > 0.1);
  }

  TEST_CASE("95 % intervals cover the truth in 93 to 97 of 100 made data sets" * doctest::skip(testing::is_sanitized)) {
    for (std::size_t m = 0; m < 3; ++m) {
      const Model& model = models()[m];
      CAPTURE(model.equation);
      Index covered = 0, looked = 0;
      for (std::uint64_t seed = 1; seed <= 1000; ++seed) {
        const Problem problem = data_of(model, 25, 0.1, seed);
        const Outcome outcome = run(problem, method("levenberg-marquardt"), {.trace = {.most_rows = 2}});
        const FitStatistics fit = fit_statistics(problem, outcome.point);
        for (Index i = 0; i < model.truth.size(); ++i, ++looked) {
          const ParameterEstimate& each = fit.parameters[static_cast<std::size_t>(i)];
          covered += each.lower <= model.truth[i] && model.truth[i] <= each.upper;
        }
      }
      CHECK(static_cast<double>(covered) >= 0.93 * static_cast<double>(looked));
      CHECK(static_cast<double>(covered) <= 0.97 * static_cast<double>(looked));
    }
  }

  TEST_CASE("95 % intervals by profiles and the bootstrap cover the truth in 93 to 97 of 100 made data sets" *
            doctest::skip(testing::is_sanitized)) {
    const Method by = method("levenberg-marquardt");
    Index by_profile = 0, by_bootstrap = 0, looked = 0;
    for (std::size_t m = 0; m < 3; ++m) {
      const Model& model = models()[m];
      for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        const Fit made = fitted(data_of(model, 25, 0.1, seed));
        const auto profiles = profile_intervals(made, by);
        const auto drawn = bootstrap_intervals(made, by, {.samples = 99, .seed = seed});
        for (Index i = 0; i < model.truth.size(); ++i, ++looked) {
          const auto place = static_cast<std::size_t>(i);
          by_profile += profiles[place].lower <= model.truth[i] && model.truth[i] <= profiles[place].upper;
          by_bootstrap += drawn[place].lower <= model.truth[i] && model.truth[i] <= drawn[place].upper;
        }
      }
    }
    for (const Index covered : {by_profile, by_bootstrap}) {
      CHECK(static_cast<double>(covered) >= 0.93 * static_cast<double>(looked));
      CHECK(static_cast<double>(covered) <= 0.97 * static_cast<double>(looked));
    }
  }

  TEST_CASE("the profile of a straight line is its own interval, and the bootstrap repeats to the bit") {
    Matrix rows(5, 2);
    rows << 1, 2.1, 2, 3.9, 3, 6.2, 4, 7.8, 5, 10.1;
    const Fit line =
        fitted(from_table("y = a + b*x", {"x", "y"}, rows, {{.name = "a", .start = {0}}, {.name = "b", .start = {1}}}));
    const FitStatistics fit = fit_statistics(line.problem, line.outcome.point);
    const Method by = method("levenberg-marquardt");
    const auto profile = profile_intervals(line, by);
    for (std::size_t i = 0; i < 2; ++i) {
      CHECK(profile[i].lower == doctest::Approx(fit.parameters[i].lower).epsilon(1e-5));
      CHECK(profile[i].upper == doctest::Approx(fit.parameters[i].upper).epsilon(1e-5));
    }
    CHECK_THROWS_AS((void)profile_intervals(fitted(data_of(models()[0], 20, 0.1, 1, 0, Loss::parse("huber"))), by),
                    ProblemError);

    const Model& model = models()[1];
    const Fit once = fitted(data_of(model, 20, 0.3, 1));
    CHECK(bootstrap_intervals(once, by, {.samples = 50})[0].lower ==
          bootstrap_intervals(once, by, {.samples = 50})[0].lower);
  }

  TEST_CASE("a profile that never rises again has no end on that side") {
    // Of an exponential that has long died out, the rate has no upper limit in the data.
    Matrix rows(8, 2);
    rows << 0, 5, 1, 1.1, 2, 1.05, 3, 1, 4, 0.95, 5, 1.05, 6, 1.02, 7, 0.98;
    const Fit made =
        fitted(from_table("y = a*exp(-b*x) + c", {"x", "y"}, rows,
                          {{.name = "a", .start = {4}}, {.name = "b", .start = {3}}, {.name = "c", .start = {1}}}));
    const auto profile = profile_intervals(made, method("levenberg-marquardt"));
    const ParameterEstimate& rate = fit_statistics(made.problem, made.outcome.point).parameters[1];
    CHECK((profile[1].upper == INFINITY || profile[1].upper > 2 * rate.upper));
    CHECK(std::isfinite(profile[1].lower));
  }

  TEST_CASE("outliers of twenty sigma carry squares away, and no robust loss" * doctest::skip(testing::is_sanitized)) {
    const auto near = [](const Fit& made, const Vector& truth) {
      const FitStatistics fit = fit_statistics(made.problem, made.outcome.point);
      bool all = true;
      for (Index i = 0; i < truth.size(); ++i) {
        const ParameterEstimate& each = fit.parameters[static_cast<std::size_t>(i)];
        all = all && std::abs(each.value - truth[i]) <= 3 * each.error;
      }
      return all;
    };
    for (const Model& model : models()) {
      CAPTURE(model.equation);
      for (const char* name : {"huber", "cauchy", "tukey"}) {
        CAPTURE(name);
        int kept = 0;
        for (std::uint64_t seed = 1; seed <= 100; ++seed)
          kept +=
              near(fitted(data_of(model, 50, 0.1, seed, 20, Loss::parse(name)), {.estimate_scale = true}), model.truth);
        CHECK(kept >= 90);
      }
    }
  }

  TEST_CASE("the usual scales lose five hundredths of the efficiency on normal errors") {
    // Asymptotic efficiency of a location estimate: (E psi')^2 / E psi^2.
    for (const char* name : {"huber", "cauchy", "tukey"}) {
      CAPTURE(name);
      Loss loss = Loss::parse(name);
      loss.scale = loss.usual_scale();
      double bends = 0, squares = 0;
      for (double r = -9; r <= 9; r += 1e-3) {
        const double density = std::exp(-0.5 * r * r) / std::sqrt(2 * 3.14159265358979) * 1e-3;
        bends += 0.5 * loss.bend(r) * density;
        squares += 0.25 * loss.slope(r) * loss.slope(r) * density;
      }
      CHECK(bends * bends / squares == doctest::Approx(0.95).epsilon(2e-3));
    }
  }

  TEST_CASE("slopes and bends of every loss are its derivatives, and large residuals stay large numbers") {
    for (const char* name : {"squares", "huber:1.5", "cauchy:2", "absolute:0.7", "tukey:3"}) {
      CAPTURE(name);
      const Loss loss = Loss::parse(name);
      CHECK(loss.text() == name);
      for (const double r : {-4.0, -1.2, -0.3, 0.0, 0.4, 1.1, 2.7, 7.0}) {
        CAPTURE(r);
        const double h = 1e-5;
        CHECK(loss.slope(r) == doctest::Approx((loss.value(r + h) - loss.value(r - h)) / (2 * h)).epsilon(1e-6));
        CHECK(loss.bend(r) == doctest::Approx((loss.slope(r + h) - loss.slope(r - h)) / (2 * h)).epsilon(1e-5));
        CHECK(loss.slope(r) == doctest::Approx(2 * r * loss.weight(r)));
      }
      CHECK(loss.value(1e-6) == doctest::Approx(1e-12));
      CHECK(std::isfinite(loss.value(1e150)));
    }
  }

  TEST_CASE("without a start one is found, over bounds or powers of ten") {
    for (const Model& model : models()) {
      CAPTURE(model.equation);
      int found = 0;
      for (std::uint64_t seed = 1; seed <= 5; ++seed) {
        const Problem problem = data_of(model, 40, 0.05, seed);
        const Fit made = fitted(problem, {.starts = 200 * problem.dimension(), .run = {.seed = seed}});
        CHECK_FALSE(made.start_told.empty());
        // A parameter may have the other sign where the model does not mind.
        found += made.outcome.value <= problem.value(Coordinates(model.truth));
      }
      CHECK(found >= 4);
    }
  }

  TEST_CASE("what the data do not tell is said, and given no error") {
    Matrix rows(6, 2);
    rows << 0, 1, 1, 2, 2, 3.1, 3, 4, 4, 5.1, 5, 5.9;
    const auto parameter = [](const char* name, double start) {
      VariableDefinition variable{.name = name, .start = {start}};
      return variable;
    };
    const Fit twins = fitted(
        from_table("y = (a + b)*x + c", {"x", "y"}, rows, {parameter("a", 1), parameter("b", 1), parameter("c", 1)}));
    const FitStatistics open = fit_statistics(twins.problem, twins.outcome.point);
    CHECK(open.undetermined.size() == 1);
    CHECK(open.degrees_of_freedom == 4);
    CHECK(std::isnan(open.parameters[0].error));
    CHECK(std::isnan(open.parameters[1].error));
    CHECK(open.parameters[2].error > 0);
    CHECK(is_hinted(twins, "do not determine a, b apart"));
    const Fit line = fitted(from_table("y = a*x + c", {"x", "y"}, rows, {parameter("a", 1), parameter("c", 1)}));
    CHECK(fit_hints(line, fit_statistics(line.problem, line.outcome.point)).empty());

    VariableDefinition held{.name = "a", .start = {0.5}, .upper = 0.8};
    const Fit bounded = fitted(from_table("y = a*x + c", {"x", "y"}, rows, {held, parameter("c", 1)}));
    const FitStatistics at_bound = fit_statistics(bounded.problem, bounded.outcome.point);
    CHECK(at_bound.parameters[0].is_held);
    CHECK(at_bound.degrees_of_freedom == 5);
    CHECK(is_hinted(bounded, "a bound holds a"));

    const Fit few = fitted(from_table("y = a + b*x + c*x^2 + d*x^3", {"x", "y"}, rows.topRows(3),
                                      {parameter("a", 1), parameter("b", 1), parameter("c", 1), parameter("d", 1)}));
    CHECK(is_hinted(few, "3 rows for 4 parameters"));
  }

  TEST_CASE("what is no fit is refused") {
    const Problem plain = Problem::from_formula("x^2");
    CHECK_THROWS_AS((void)fit_statistics(plain, Vector{{1}}), ProblemError);
    CHECK_THROWS_AS((void)fit(plain, method("nelder-mead")), ProblemError);
  }
}
