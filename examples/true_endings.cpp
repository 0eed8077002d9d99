// Whether `converged` is true of the point that is printed: every method that works on one value, on the functions of
// the testbed from their usual start and from random ones, and on fits written as plain objectives. As a table in
// Markdown: by method, the runs, how many say `converged`, and how many of those are contradicted: by a relative
// gradient above 1e-4 where the function is smooth, else by a lower value 1e-4 away along a variable.
#include <tanzen/problem/smoothness.hpp>
#include <tanzen/tanzen.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

using namespace tanzen;

namespace {

/// The largest slope in units of the value and the variables (Dennis and Schnabel, 1983, section 7.2), without the part
/// of one that a bound holds.
double relative_gradient(const Problem& problem, const Outcome& outcome) {
  const Vector gradient = problem.sign() * problem.gradient(outcome.point), sizes = problem.typical_sizes();
  double largest = 0;
  for (Index i = 0; i < gradient.size(); ++i) {
    const double x = outcome.point[i], size = std::max(std::abs(x), sizes[i]);
    const double room = gradient[i] > 0 ? x - problem.bounds().lower()[i] : problem.bounds().upper()[i] - x;
    largest = std::max(largest, std::abs(gradient[i]) * std::min(size, std::max(room, 0.0)));
  }
  return largest / std::max(std::abs(outcome.value), 1.0);
}

/// Whether a value a ten-thousandth of a variable's size away is lower than rounding and the slope of a smooth minimum
/// there would have it: by 1e-6 of the value's size.
bool has_lower_neighbour(const Problem& problem, const Outcome& outcome) {
  const Vector sizes = problem.typical_sizes();
  const double value = problem.sign() * outcome.value, least = value - 1e-6 * std::max(std::abs(value), 1.0);
  for (Index i = 0; i < outcome.point.size(); ++i) {
    for (const double way : {1e-4, -1e-4}) {
      Vector x = outcome.point;
      x[i] += way * std::max(std::abs(x[i]), sizes[i]);
      problem.bounds().project(x);
      if (problem.sign() * problem.value(x) < least) return true;
    }
  }
  return false;
}

/// The sum that a fit makes small, as nothing but a function with a gradient.
Problem as_plain_objective(const Problem& fit) {
  Problem plain = Problem::with_derivatives(
      fit.dimension(), [fit](const Vector& x) { return fit.value(x); },
      [fit](const Vector& x, Vector& gradient) { gradient = fit.gradient(x); });
  return plain.named(fit.name()).region(fit.region().lower, fit.region().upper).start(*fit.start());
}

std::vector<Problem> problems() {
  std::vector<Problem> all;
  int fits = 0;
  for (const testbed::TestFunction& function : testbed::all()) {
    const auto has = [&](testbed::Trait trait) {
      return std::ranges::find(function.traits, trait) != function.traits.end();
    };
    if (has(testbed::Trait::fit)) {
      if (fits++ < 30) all.push_back(as_plain_objective(testbed::problem(function.name)));
      continue;
    }
    if (has(testbed::Trait::constrained) || has(testbed::Trait::several_objectives)) continue;
    const auto& [least, most, usual, multiple] = function.dimensions;
    std::vector<Index> sizes;
    for (const Index n : {Index{2}, Index{10}}) {
      if (n >= least && n <= most && n % multiple == 0) sizes.push_back(n);
    }
    if (sizes.empty()) sizes.push_back(usual); // such as the set of 1981
    for (const Index n : sizes) {
      all.push_back(testbed::problem(function.name, n));
    }
  }
  return all;
}

/// Methods of one value; of those that think for long none.
bool is_asked(const Method& method) {
  const Abilities& able = method.card().able;
  return !able.residuals && !able.fronts && !able.formula && method.card().family != "constrained" &&
         method.name() != "surrogate";
}

} // namespace

int main(int count, char** arguments) {
  const std::uint64_t repeats = count > 1 ? std::strtoull(arguments[1], nullptr, 10) : 10;
  const std::int64_t evaluations = count > 2 ? std::strtoll(arguments[2], nullptr, 10) : 10'000;
  const std::vector<Problem> all = problems();
  std::int64_t contradicted = 0;
  fmt::print("{} problems, each from {} starts, at most {} values a run.\n\n", all.size(), repeats, evaluations);
  fmt::print("| method | runs | converged | contradicted |\n| --- | ---: | ---: | ---: |\n");
  for (const Method& method : standard_methods().all()) {
    if (!is_asked(method)) continue;
    std::int64_t runs = 0, converged = 0, wrong = 0;
    for (const Problem& problem : all) {
      if (why_not(method, problem)) continue;
      for (std::uint64_t repeat = 0; repeat < repeats; ++repeat) {
        const Outcome outcome =
            run(problem, method,
                {.seed = 5, .repeat = repeat, .stop = {.evaluations = evaluations}, .trace = {.most_rows = 2}});
        ++runs;
        if (!outcome.converged() || outcome.status == Status::target) continue;
        ++converged;
        const bool has_slope = is_smooth(problem) || problem.expression() == nullptr;
        if (has_slope ? relative_gradient(problem, outcome) <= 1e-4 : !has_lower_neighbour(problem, outcome)) continue;
        ++wrong;
        fmt::print(stderr, "{} on {}, repeat {}: relative gradient {:.1g}; {}; {}\n", method.name(), problem.name(),
                   repeat, relative_gradient(problem, outcome), outcome.message, outcome.checked.how);
      }
    }
    fmt::print("| {} | {} | {} | {} |\n", method.name(), runs, converged, wrong);
    contradicted += wrong;
  }
  return contradicted == 0 ? 0 : 1;
}
