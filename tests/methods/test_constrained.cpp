#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;

namespace {

/// The constrained problems of the testbed with their usual numbers of variables.
std::vector<Problem> constrained_set() {
  std::vector<Problem> set;
  for (const auto& function : testbed::all()) {
    if (!function.objectives &&
        std::ranges::find(function.traits, testbed::Trait::constrained) != function.traits.end())
      set.push_back(testbed::problem(function.name));
  }
  return set;
}

/// Whether the run ended in the best point known, or in another minimum that is.
enum class End { best, other_minimum, none };

End end_of(const Problem& problem, const Outcome& outcome, double accuracy, double most_broken) {
  if (!(outcome.violation <= most_broken)) return End::none;
  const auto is_there = [&](double value) {
    return std::abs(outcome.value - value) <= accuracy * std::max(1.0, std::abs(value));
  };
  if (is_there(*problem.best_known()) || problem.sign() * (outcome.value - *problem.best_known()) < 0) return End::best;
  for (const KnownMinimum& minimum : problem.known_minima()) {
    if (!minimum.global && is_there(minimum.value)) return End::other_minimum;
  }
  return End::none;
}

struct Tally {
  int problems = 0, best = 0, other = 0;
  std::vector<std::int64_t> iterations;
  std::string missed;
};

/// `in_units` has the optimality conditions measured in units of the value, where that is large.
Tally solve_all(const std::string& name, double accuracy, double most_broken, bool in_units = false) {
  Tally tally;
  for (const Problem& problem : constrained_set()) {
    CAPTURE(problem.name());
    const Outcome outcome = run(problem, method(name), {.stop = {.iterations = 500, .evaluations = 100'000}});
    ++tally.problems;
    const End end = end_of(problem, outcome, accuracy, most_broken);
    tally.best += end == End::best;
    tally.other += end == End::other_minimum;
    if (end == End::none) tally.missed += " " + problem.name();
    tally.iterations.push_back(outcome.iterations);
    // What is called converged is so, with multipliers that say so.
    const double unit = in_units ? std::max(1.0, std::abs(outcome.value)) : 1;
    if (outcome.converged()) CHECK(outcome.checked.kkt <= 1e-6 * unit);
  }
  std::ranges::sort(tally.iterations);
  return tally;
}

/// Whether every limit that holds the point pushes, and not by far less than the others: then multipliers are unique
/// and tell how the best value changes.
bool is_strictly_held(const Problem& problem, const Vector& point, const PointCheck& checked) {
  std::vector<double> pushes;
  for (const ConstraintState& row : checked.constraints)
    if (row.active) pushes.push_back(std::abs(row.multiplier));
  for (Index i = 0; i < point.size(); ++i) {
    const bool is_on = point[i] <= problem.bounds().lower()[i] + 1e-8 || point[i] >= problem.bounds().upper()[i] - 1e-8;
    if (is_on) pushes.push_back(std::abs(checked.bound_multipliers[i]));
  }
  const bool is_unique = static_cast<Index>(pushes.size()) <= point.size();
  return is_unique && std::ranges::all_of(pushes, [](double push) { return push > 1e-4; });
}

/// The best value near a point when one row's limit is moved.
double best_with_moved(const Problem& problem, const Vector& near, std::size_t row, double by) {
  std::vector<Constraint> rows = problem.constraints();
  Constraint& moved = rows[row];
  const double value = problem.constraint_values(near)[static_cast<Index>(row)];
  const bool is_lower = std::abs(value - moved.lower) <= std::abs(value - moved.upper);
  if (moved.is_equality())
    moved.lower = moved.upper = moved.lower + by;
  else
    (is_lower ? moved.lower : moved.upper) += by;
  const Problem other = Problem::from_bundle(problem.bundle(), problem.objectives(), rows)
                            .bounds(problem.bounds().lower(), problem.bounds().upper())
                            .start(near);
  const Outcome outcome =
      run(other, method("sequential-quadratic"), {.stop = {.iterations = 200, .feasibility = 1e-10}});
  return outcome.value;
}

} // namespace

TEST_SUITE("constrained methods") {
  TEST_CASE("sequential quadratic programming solves the set from its standard starts, in few iterations") {
    const Tally tally = solve_all("sequential-quadratic", 1e-6, 1e-8);
    CAPTURE(tally.missed);
    CHECK(tally.problems >= 60);
    CHECK(tally.best + tally.other >= std::ceil(0.95 * tally.problems));
    CHECK(tally.best >= std::ceil(0.92 * tally.problems));
    CHECK(tally.iterations[tally.iterations.size() / 2] <= 15);
  }

  TEST_CASE("the interior point solves the set from its standard starts, in few iterations") {
    const Tally tally = solve_all("interior-point", 1e-6, 1e-8);
    CAPTURE(tally.missed);
    CHECK(tally.best + tally.other >= std::ceil(0.95 * tally.problems));
    CHECK(tally.best >= std::ceil(0.92 * tally.problems));
    CHECK(tally.iterations[tally.iterations.size() / 2] <= 20);
  }

  TEST_CASE("the augmented Lagrangian solves most of the set") {
    const Tally tally = solve_all("augmented-lagrangian", 1e-6, 1e-8, true);
    CAPTURE(tally.missed);
    CHECK(tally.best >= std::ceil(0.92 * tally.problems));
  }

  TEST_CASE("many variables and half as many limits cost the interior point no more iterations") {
    for (const char* name : {"paired-parabolas", "paired-parabola-limits", "linear-regulator", "shares-of-squares",
                             "plane-in-an-ellipsoid", "least-informed"}) {
      CAPTURE(name);
      const Problem problem = testbed::problem(name, 100);
      const Outcome outcome = run(problem, method("interior-point"), {.stop = {.iterations = 40}});
      CHECK(outcome.converged());
      CHECK(outcome.violation <= 1e-8);
      CHECK(std::abs(*outcome.gap) <= 1e-6 * std::max(1.0, std::abs(*problem.best_known())));
    }
  }

  TEST_CASE("a multiplier is what the best value changes by when its limit is moved") {
    int looked = 0;
    for (const Problem& problem : constrained_set()) {
      CAPTURE(problem.name());
      const Vector best = problem.known_minima().front().point;
      const PointCheck checked = check_point(problem, best);
      if (!is_strictly_held(problem, best, checked)) continue;
      for (std::size_t k = 0; k < checked.constraints.size(); ++k) {
        const ConstraintState& row = checked.constraints[k];
        if (!row.active) continue;
        CAPTURE(row.name);
        const double step = 1e-4 * std::max(1e-2, std::min(1.0, std::abs(row.value)));
        const double change =
            (best_with_moved(problem, best, k, step) - best_with_moved(problem, best, k, -step)) / (2 * step);
        CHECK(change == doctest::Approx(row.multiplier).epsilon(1e-3));
        ++looked;
      }
    }
    CHECK(looked >= 70);
  }

  TEST_CASE("linear limits that cannot be kept together end as infeasible, where they are broken least") {
    const Problem problem = Problem::from_formula("x^2 + y^2")
                                .start({3, 4})
                                .with_constraint("high", "x + y >= 4")
                                .with_constraint("low", "x + y <= 2");
    for (const char* name : {"sequential-quadratic", "interior-point", "augmented-lagrangian"}) {
      CAPTURE(name);
      const Outcome outcome = run(problem, method(name));
      CHECK(outcome.status == Status::infeasible);
      CHECK_FALSE(outcome.converged());
      CHECK(outcome.violation <= 2 + 1e-6);
    }
  }

  TEST_CASE("a curved limit that no point keeps ends as infeasible") {
    const Problem problem = Problem::from_formula("x + y").start({2, 1}).with_constraint("disc", "x^2 + y^2 <= -1");
    for (const char* name : {"sequential-quadratic", "interior-point"}) {
      CAPTURE(name);
      const Outcome outcome = run(problem, method(name));
      CHECK(outcome.status == Status::infeasible);
      CHECK(outcome.violation == doctest::Approx(1).epsilon(1e-3));
    }
  }

  TEST_CASE("the correction of second order takes the full step where the limit's curve spoils it") {
    // Maratos: full steps along the circle raise value and violation together.
    const Problem problem =
        Problem::from_formula("2*(x^2 + y^2 - 1) - x").start({0.8, 0.6}).with_constraint("circle", "x^2 + y^2 = 1");
    const Outcome outcome = run(problem, method("sequential-quadratic", {{"model", "exact"}}));
    CHECK(outcome.converged());
    CHECK((outcome.point - Vector{{1, 0}}).norm() <= 1e-8);
    CHECK(outcome.iterations <= 8);
    for (const double step : outcome.trace.column("step"))
      if (!std::isnan(step)) CHECK(step == 1);
  }
}
