// The unconstrained set of Moré, Garbow and Hillstrom (1981) from its standard starts, as a table in Markdown: what
// each method spends until it is at a stated minimum, and which one.
#include <tanzen/tanzen.hpp>

#include <fmt/format.h>

#include <cmath>

using namespace tanzen;

namespace {

/// `global`, `local`, or nothing where the value is that of no stated minimum.
std::string_view reached(const Problem& problem, double value) {
  const auto is_near = [value](double minimum) {
    return std::abs(value - minimum) <= (minimum == 0 ? 1e-10 : 1e-6 * std::abs(minimum));
  };
  if (problem.best_known() && is_near(*problem.best_known())) return "global";
  for (const KnownMinimum& minimum : problem.known_minima()) {
    if (is_near(minimum.value)) return minimum.global ? "global" : "local";
  }
  return "";
}

std::string cell(const Problem& problem, const Outcome& outcome) {
  const std::string_view where = reached(problem, outcome.value);
  if (where.empty()) return fmt::format("missed, {:.3g}", outcome.value);
  const std::string cost = fmt::format("{} + {}", outcome.counts.evaluations, outcome.counts.gradients);
  return where == "local" ? cost + ", local" : cost;
}

} // namespace

int main() {
  const char* const methods[] = {"bfgs", "newton-trust-region", "lbfgs", "truncated-newton", "conjugate-gradient"};
  fmt::print("| problem | variables |");
  for (const char* name : methods) fmt::print(" {} |", name);
  fmt::print("\n| --- | ---: |");
  for (std::size_t k = 0; k < std::size(methods); ++k) fmt::print(" ---: |");
  fmt::print("\n");
  std::vector<int> solved(std::size(methods), 0);
  int problems = 0;
  for (const auto& function : testbed::all()) {
    if (function.source.find("Garbow and Hillstrom, 1981") == std::string::npos) continue;
    const Problem problem = testbed::problem(function.name);
    ++problems;
    fmt::print("| {} | {} |", function.name, problem.dimension());
    for (std::size_t k = 0; k < std::size(methods); ++k) {
      const Outcome outcome =
          run(problem, method(methods[k]), {.stop = {.evaluations = 20'000, .gradient_tolerance = 1e-12}});
      if (!reached(problem, outcome.value).empty()) ++solved[k];
      fmt::print(" {} |", cell(problem, outcome));
    }
    fmt::print("\n");
  }
  fmt::print("| **at a stated minimum** | |");
  for (const int count : solved) fmt::print(" {} of {} |", count, problems);
  fmt::print("\n");
}
