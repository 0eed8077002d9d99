#include "tanzen/numeric/constants.hpp"
#include "tanzen/search/stop_checker.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <vector>

using namespace tanzen;

namespace {

/// What is told of one iteration.
struct Told {
  double value, step = 1, gradient_norm = not_known;
  Vector point = Vector::Zero(2);
};

/// The iteration after which the rules end the run, from 1, and its status; none where they never do.
std::optional<std::pair<int, Status>> end_by(const StopRules& rules, double start, const std::vector<Told>& told) {
  const Problem problem = Problem::from_formula("x + y"); // of two variables of size 1
  StopChecker checker(rules, problem);
  checker.begin(start);
  for (std::size_t k = 0; k < told.size(); ++k) {
    const Iteration now = Iteration(told[k].point, told[k].value).gradient_norm(told[k].gradient_norm);
    const auto end =
        checker.check(static_cast<std::int64_t>(k) + 1, now, told[k].point - told[k].step * Vector::Unit(2, 0));
    if (end) return std::pair{static_cast<int>(k) + 1, end->status};
  }
  return std::nullopt;
}

std::vector<Told> values(std::initializer_list<double> list) {
  std::vector<Told> told;
  for (const double value : list) told.push_back({value});
  return told;
}

using Ended = std::optional<std::pair<int, Status>>;

} // namespace

TEST_SUITE("stop rules, iteration by iteration") {
  TEST_CASE("a gradient norm counts once it is at the tolerance, an unknown one never") {
    const StopRules rules{.gradient_tolerance = 1e-3};
    CHECK(end_by(rules, 1, {{1, 1, 1e-2}, {1, 1, 1e-3}}) == Ended{{2, Status::gradient}});
    CHECK(end_by(rules, 1, {{1, 1, not_known}, {1, 1, not_known}}) == Ended{});
  }

  TEST_CASE("short steps must come one after the other, as many as the window is wide") {
    const StopRules rules{.gradient_tolerance = {}, .step_tolerance = 1e-6, .window = 3};
    const Told still{1, 1e-7}, moving{1, 1e-3};
    CHECK(end_by(rules, 1, {still, still, still}) == Ended{{3, Status::step}});
    CHECK(end_by(rules, 1, {still, still, moving, still, still}) == Ended{});
    CHECK(end_by(rules, 1, {still, still, moving, still, still, still}) == Ended{{6, Status::step}});
  }

  TEST_CASE("a step is short beside the point that it leads to") {
    const StopRules rules{.gradient_tolerance = {}, .step_tolerance = 1e-6, .window = 1};
    const Told far{1, 1e-4, not_known, Vector::Constant(2, 1e3)}, near{1, 1e-4, not_known, Vector::Zero(2)};
    CHECK(end_by(rules, 1, {far}) == Ended{{1, Status::step}}); // 1e-4 against 1e-6 (1 + 1414)
    CHECK(end_by(rules, 1, {near}) == Ended{});
  }

  TEST_CASE("flat values end a run only where the last step is short as well") {
    const StopRules rules{.gradient_tolerance = {}, .value_tolerance = 1e-8, .window = 3};
    const Told still{1, 1e-5}, jumping{1, 1};
    CHECK(end_by(rules, 1, {still, still, still}) == Ended{{3, Status::value}});
    CHECK(end_by(rules, 1, {jumping, jumping, jumping, jumping}) == Ended{});
    CHECK(end_by(rules, 1, {jumping, jumping, jumping, still}) == Ended{{4, Status::value}});
    CHECK(end_by(rules, 1, {still, still, {1.1, 1e-5}, still, still}) == Ended{}); // the window still sees the bump
  }

  TEST_CASE("a value that lies far above the start's after five rises has diverged, and not before") {
    StopRules rules{.gradient_tolerance = {}};
    rules.divergence = 100;
    CHECK(end_by(rules, 1, values({10, 100, 150, 180, 300})) == Ended{{5, Status::diverged}});
    CHECK(end_by(rules, 1, values({10, 50, 100, 150, 190})) == Ended{});             // not above 1 + 100 (1 + 1)
    CHECK(end_by(rules, 1, values({500, 600, 700, 800, 100, 900, 950})) == Ended{}); // falls in between
    CHECK(end_by(rules, 1e6, values({2e6, 3e6, 4e6, 5e6, 6e6})) == Ended{});         // relative to the start's
  }

  TEST_CASE("a point that is no longer finite has diverged at once") {
    const Told lost{infinity, 1, not_known, Vector::Constant(2, infinity)};
    CHECK(end_by({.gradient_tolerance = {}}, 1, {{1}, lost}) == Ended{{2, Status::diverged}});
  }

  TEST_CASE("the limit of iterations is met exactly, and a tolerance met with it comes first") {
    CHECK(end_by({.iterations = 3}, 1, values({1, 1, 1, 1})) == Ended{{3, Status::iterations}});
    CHECK(end_by({.iterations = 2}, 1, {{1}, {1, 1, 1e-9}}) == Ended{{2, Status::gradient}});
  }
}
