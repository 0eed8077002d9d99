#include "tanzen/analysis/fit_statistics.hpp"
#include "tanzen/analysis/fitting.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/testbed/certified_fits.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;

namespace {

struct Fitted {
  Problem problem;
  const testbed::CertifiedFit* certified;
  Outcome outcome;

  [[nodiscard]] bool is_reached() const { return outcome.value <= certified->sum * (1 + 1e-8); }
  /// Digits that all parameters have right.
  [[nodiscard]] double digits() const {
    const Vector error = (outcome.point - certified->parameters).cwiseQuotient(certified->parameters).cwiseAbs();
    return -std::log10(error.maxCoeff() + 1e-17);
  }
};

double median_of(std::vector<double> numbers) {
  std::ranges::sort(numbers);
  return numbers[numbers.size() / 2];
}

template <class Run>
std::vector<Fitted> fit_all(bool far, Run&& run_one) {
  std::vector<Fitted> all;
  for (const auto& function : testbed::all()) {
    if (!function.fit) continue;
    Problem problem = testbed::problem(function.name, 0, {{"far", far ? 1 : 0}});
    Outcome outcome = run_one(problem);
    all.push_back({std::move(problem), testbed::certified_fit(function.name), std::move(outcome)});
  }
  return all;
}

std::vector<Fitted> fit_all_by(const char* name, bool far) {
  return fit_all(far, [&](const Problem& problem) { return run(problem, method(name)); });
}

double reached_part(const std::vector<Fitted>& all) {
  return static_cast<double>(std::ranges::count_if(all, &Fitted::is_reached)) / static_cast<double>(all.size());
}

std::string missed(const std::vector<Fitted>& all) {
  std::string names;
  for (const Fitted& each : all)
    if (!each.is_reached()) names += " " + each.problem.name();
  return names;
}

/// Whether other parameters give the same curve: two peaks in the other order, a wave upside down and half a turn on.
bool has_twin(const Problem& problem) {
  return problem.name().starts_with("peaks-that-touch") || problem.name().starts_with("wave-about-a-level");
}

double evaluations(const Fitted& fitted) {
  return static_cast<double>(fitted.outcome.counts[Spent::evaluations]);
}

} // namespace

TEST_SUITE("fits of the testbed") {
  TEST_CASE("there are at least 40, each certified, with data that fit no better than their noise") {
    int count = 0;
    for (const auto& function : testbed::all()) {
      if (!function.fit) continue;
      ++count;
      CAPTURE(function.name);
      const auto* certified = testbed::certified_fit(function.name);
      REQUIRE(certified != nullptr);
      const Problem problem = testbed::problem(function.name);
      CHECK(problem.value(certified->parameters) == doctest::Approx(certified->sum).epsilon(1e-9));
      CHECK(certified->residual_sd ==
            doctest::Approx(
                std::sqrt(certified->sum / static_cast<double>(problem.parts().residuals - problem.dimension())))
                .epsilon(1e-12));
      CHECK(*problem.start() != function.far_start);
      CHECK(problem.value(Coordinates(function.far_start)) > certified->sum);
    }
    CHECK(count >= 40);
  }

  TEST_CASE(
      "levenberg-marquardt reaches the certified sums and parameters from both starts, at some nine evaluations") {
    for (const bool far : {false, true}) {
      CAPTURE(far);
      const std::vector<Fitted> all = fit_all_by("levenberg-marquardt", far);
      CAPTURE(missed(all));
      CHECK(reached_part(all) >= (far ? 0.85 : 0.95));
      std::vector<double> digits, spent;
      for (const Fitted& each : all) {
        if (!each.is_reached()) continue;
        CAPTURE(each.problem.name());
        CHECK(each.outcome.converged());
        if (has_twin(each.problem) && far) continue;
        CHECK(each.digits() >= 6);
        digits.push_back(each.digits());
        spent.push_back(evaluations(each));
      }
      CHECK(median_of(digits) >= 8);
      CHECK(median_of(spent) <= 20);
    }
  }

  TEST_CASE("a fit whose second opinion is variable projection reaches more, and takes the lower of the two") {
    for (const bool far : {false, true}) {
      CAPTURE(far);
      const std::vector<Fitted> all = fit_all(far, [](const Problem& problem) {
        return fit(problem, method("levenberg-marquardt"), {.second = method("variable-projection")}).outcome;
      });
      CAPTURE(missed(all));
      CHECK(reached_part(all) >= (far ? 0.92 : 0.98));
    }
  }

  TEST_CASE("standard errors and the residual standard deviation have six digits") {
    for (const Fitted& each : fit_all_by("levenberg-marquardt", false)) {
      if (!each.is_reached()) continue;
      CAPTURE(each.problem.name());
      const FitStatistics statistics = fit_statistics(each.problem, each.outcome.point);
      CHECK(statistics.residual_sd == doctest::Approx(each.certified->residual_sd).epsilon(1e-6));
      for (Index i = 0; i < each.problem.dimension(); ++i)
        CHECK(statistics.parameters[static_cast<std::size_t>(i)].error ==
              doctest::Approx(each.certified->errors[i]).epsilon(1e-6));
    }
  }

  TEST_CASE("variable projection needs no guess of the linear parameters, and fewer evaluations than without") {
    std::vector<double> parts;
    int tried = 0, reached = 0, reached_without = 0;
    for (const auto& function : testbed::all()) {
      if (!function.fit) continue;
      const Problem problem = testbed::problem(function.name);
      const std::vector<Index> linear = problem.linear_variables();
      if (linear.empty()) continue;
      CAPTURE(function.name);
      Vector start = *problem.start();
      start(linear).setConstant(1);
      const Problem blind = problem.start(Coordinates(start));
      const Fitted by{blind, testbed::certified_fit(function.name), run(blind, method("variable-projection"))};
      const Fitted without{blind, testbed::certified_fit(function.name), run(blind, method("levenberg-marquardt"))};
      ++tried;
      reached += by.is_reached();
      reached_without += without.is_reached();
      if (by.is_reached() && without.is_reached()) parts.push_back(evaluations(by) / evaluations(without));
      // Where they start does not matter.
      const Outcome other = run(problem, method("variable-projection"));
      CHECK(std::abs(other.value - by.outcome.value) <= 1e-8 * by.outcome.value);
    }
    CHECK(tried >= 40);
    CHECK(reached >= 0.98 * tried);
    CHECK(reached >= reached_without);
    CHECK(median_of(parts) < 0.9);
  }

  TEST_CASE("placed, shifted and rotated they keep their derivatives, their table and their answers") {
    for (const char* name : {"decay-two", "peaks-that-touch", "drying"}) {
      CAPTURE(name);
      const Problem plain = testbed::problem(name), placed = testbed::problem(name, 0, {{"placement", 3}});
      CHECK(placed.bundle()->derivatives() == Derivatives::hessian);
      CHECK(placed.table()->rows == plain.table()->rows);
      CHECK(placed.linear_variables().size() < plain.linear_variables().size());
      const Outcome outcome = run(placed, method("levenberg-marquardt"));
      CHECK(outcome.value == doctest::Approx(testbed::certified_fit(name)->sum).epsilon(1e-8));
    }
  }

  TEST_CASE("without derivatives the near starts reach the certified sums, at some evaluations for each parameter") {
    const std::vector<Fitted> all = fit_all_by("derivative-free-fit", false);
    CAPTURE(missed(all));
    CHECK(reached_part(all) >= 0.9);
    std::vector<double> each_parameter;
    for (const Fitted& each : all) {
      CHECK(each.outcome.counts[Spent::gradients] == 0);
      each_parameter.push_back(evaluations(each) / static_cast<double>(each.problem.dimension() + 1));
    }
    CHECK(median_of(each_parameter) <= 20);
  }
}
