#include "tanzen/statistics/profiles.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

TEST_SUITE("profiles") {
  TEST_CASE("a runtime distribution steps at each cost, and failures stay in the whole") {
    const double costs[] = {100, 10, INFINITY, 10, 1000};
    const StepCurve curve = runtime_distribution(costs);
    CHECK(curve.cost == std::vector<double>{10, 100, 1000});
    CHECK(curve.share == std::vector<double>{0.4, 0.6, 0.8});
    CHECK(curve.at(9.9) == 0);
    CHECK(curve.at(10) == 0.4);
    CHECK(curve.at(1e9) == 0.8);
    CHECK(runtime_distribution(std::vector<double>{INFINITY}).at(1e9) == 0);
  }

  TEST_CASE("the area under it is the mean over the logarithm of the cost") {
    const StepCurve curve = runtime_distribution(std::vector<double>{10, 100, 1000, INFINITY});
    // From 1 to 10,000, four decades: shares 0, 1/4, 1/2, 3/4.
    CHECK(area_under(curve, 1, 1e4) == doctest::Approx((0 + 0.25 + 0.5 + 0.75) / 4));
    CHECK(area_under(curve, 10, 100) == doctest::Approx(0.25));
    CHECK(area_under(curve, 20, 50) == doctest::Approx(0.25));
    CHECK(area_under(curve, 1e5, 1e6) == doctest::Approx(0.75));
  }

  TEST_CASE("performance profiles are those worked out by hand") {
    // Three problems, two methods; the last problem is solved by the second alone.
    const Matrix costs{{10, 20}, {30, 10}, {INFINITY, 50}};
    const auto profiles = performance_profiles(costs);
    CHECK(profiles[0].at(1) == doctest::Approx(1.0 / 3));
    CHECK(profiles[0].at(2.9) == doctest::Approx(1.0 / 3));
    CHECK(profiles[0].at(3) == doctest::Approx(2.0 / 3));
    CHECK(profiles[0].at(1e9) == doctest::Approx(2.0 / 3));
    CHECK(profiles[1].at(1) == doctest::Approx(2.0 / 3));
    CHECK(profiles[1].at(2) == doctest::Approx(1));
    CHECK(performance_profiles(Matrix{{INFINITY, INFINITY}})[0].at(1e9) == 0);
  }

  TEST_CASE("data profiles count in simplices of the problem's dimension") {
    const Matrix costs{{30, 60}, {110, INFINITY}};
    const Index variables[] = {2, 10};
    const auto profiles = data_profiles(costs, variables);
    CHECK(profiles[0].cost == std::vector<double>{10});
    CHECK(profiles[0].share == std::vector<double>{1});
    CHECK(profiles[1].at(19.9) == 0);
    CHECK(profiles[1].at(20) == 0.5);
  }

  TEST_CASE("the bootstrap's interval holds the expected running time, and repeats by its seed") {
    std::vector<double> spent;
    std::vector<bool> successes;
    for (int k = 0; k < 30; ++k) {
      spent.push_back(100 + 7 * k);
      successes.push_back(k % 3 != 0);
    }
    const double expected = *expected_running_time(spent, 20);
    const Interval interval = running_time_interval(spent, successes, 4);
    CHECK(interval.lower < expected);
    CHECK(interval.upper > expected);
    CHECK(interval.upper < 2 * expected);
    CHECK(running_time_interval(spent, successes, 4).lower == interval.lower);
    CHECK(std::isinf(running_time_interval(std::vector<double>{5}, {false}).lower));
    // Runs that are all alike leave no doubt.
    const Interval none = running_time_interval(std::vector<double>(10, 50), std::vector<bool>(10, true));
    CHECK(none.lower == 50);
    CHECK(none.upper == 50);
  }

  TEST_CASE("quartile curves keep the last value of a run that has ended, and are infinite before the first") {
    const std::vector<ProgressCurve> runs{{{1, 10}, {8, 4}}, {{1, 5}, {6, 2}}, {{2}, {5}}};
    const double grid[] = {1, 5, 100};
    const QuartileCurves curves = quartile_curves(runs, grid);
    CHECK(curves.median == std::vector<double>{8, 5, 4});
    CHECK(curves.lower[2] == 3);
    CHECK(std::isinf(curves.upper[0]));
  }

  TEST_CASE("the rate of convergence is the slope of the last decades, none where there is no slope") {
    const std::vector<double> gaps{1, 1e-1, 1e-2, 1e-3, 1e-4};
    // Ten evaluations a decade at first, two at the end.
    const std::vector<double> costs{10, 20, 22, 24, 26};
    CHECK(*decades_per_evaluation(gaps, costs, 4) == doctest::Approx(0.5));
    CHECK(*decades_per_evaluation(gaps, std::vector<double>{10, 20, 30}) == doctest::Approx(0.1));
    CHECK_FALSE(decades_per_evaluation(gaps, std::vector<double>{10, 20}).has_value());
    CHECK_FALSE(decades_per_evaluation(gaps, std::vector<double>{7, 7, 7, 7}).has_value());
  }

  TEST_CASE("a power law is fitted exactly, and its error by the scatter") {
    const double n[] = {2, 4, 8, 16};
    std::vector<double> exact, scattered;
    for (const double each : n) {
      exact.push_back(3 * std::pow(each, 1.5));
      scattered.push_back(exact.back() * (each == 4 ? 1.2 : each == 8 ? 0.8 : 1));
    }
    CHECK(fit_scaling(n, exact).exponent == doctest::Approx(1.5));
    CHECK(fit_scaling(n, exact).factor == doctest::Approx(3));
    CHECK(fit_scaling(n, exact).exponent_error < 1e-7);
    CHECK(fit_scaling(n, scattered).exponent_error > 0.05);
    CHECK(std::isinf(fit_scaling(std::span(n).first(2), std::span(exact).first(2)).exponent_error));
  }
}
