// A set of test problems from their standard starts, such as that of Moré, Garbow and Hillstrom (1981), or one with
// constraints, as a table in Markdown: what each method spends until it is at a stated minimum, and which one.
#include <tanzen/files/plan_file.hpp>
#include <tanzen/tanzen.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;

namespace {

/// `global`, `local`, or nothing where the value is that of no stated minimum. Under constraints the point is feasible,
/// and the value may be lower by what the tolerance buys.
std::string_view reached(const Problem& problem, const Outcome& outcome) {
  const bool is_constrained = !problem.constraints().empty();
  if (!outcome.feasible || !std::isfinite(outcome.value)) return "";
  const auto is_near = [&](double minimum) {
    const double near = is_constrained ? 1e-4 * std::max(1.0, std::abs(minimum))
                        : minimum == 0 ? 1e-10
                                       : 1e-6 * std::abs(minimum);
    return std::abs(outcome.value - minimum) <= near;
  };
  const auto best = problem.best_known();
  if (best && (is_near(*best) || (is_constrained && outcome.value < *best))) return "global";
  for (const KnownMinimum& minimum : problem.known_minima()) {
    if (is_near(minimum.value)) return minimum.global ? "global" : "local";
  }
  return "";
}

std::string cell(const Problem& problem, const Outcome& outcome) {
  const std::string_view where = reached(problem, outcome);
  if (!outcome.feasible) return fmt::format("missed, broken by {:.1g}", outcome.violation);
  if (where.empty()) return fmt::format("missed, {:.3g}", outcome.value);
  const std::string cost = fmt::format("{} + {}", outcome.counts[Spent::evaluations], outcome.counts[Spent::gradients]);
  return where == "local" ? cost + ", local" : cost;
}

} // namespace

int main(int argc, char** argv) {
  if (argc != 2) {
    fmt::print(stderr, "give the plan: standard_set docs/standard-set.toml\n");
    return 2;
  }
  const PlanDefinition plan = read_plan(argv[1]);
  std::vector<Method> methods;
  for (const PlannedMethod& each : plan.methods) methods.push_back(method(each.use));
  fmt::print("| problem | variables |");
  for (const Method& each : methods) fmt::print(" {} |", each.name());
  fmt::print("\n| --- | ---: |");
  for (std::size_t k = 0; k < methods.size(); ++k) fmt::print(" ---: |");
  fmt::print("\n");
  std::vector<int> solved(methods.size(), 0), at_best(methods.size(), 0);
  for (const std::string& name : plan.problems) {
    const Problem problem = testbed::parse_problem(name);
    fmt::print("| {} | {} |", problem.name(), problem.dimension());
    for (std::size_t k = 0; k < methods.size(); ++k) {
      const Outcome outcome = run(problem, methods[k], {.stop = plan.stop});
      solved[k] += !reached(problem, outcome).empty();
      at_best[k] += reached(problem, outcome) == "global";
      fmt::print(" {} |", cell(problem, outcome));
    }
    fmt::print("\n");
  }
  fmt::print("| **at a stated minimum** | |");
  for (const int count : solved) fmt::print(" {} of {} |", count, plan.problems.size());
  fmt::print("\n| **at the lowest one** | |");
  for (const int count : at_best) fmt::print(" {} of {} |", count, plan.problems.size());
  fmt::print("\n");
}
