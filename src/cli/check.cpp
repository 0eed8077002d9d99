#include "arguments.hpp"
#include "commands.hpp"

#include "tanzen/analysis/conformance.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/symbolic.hpp"
#include "tanzen/problem/derivative_check.hpp"
#include "tanzen/search/noise_estimate.hpp"
#include "tanzen/search/outcome.hpp"
#include "tanzen/search/run.hpp"

#include <nlohmann/json.hpp>

#include <memory>

namespace tanzen::cli {
namespace {

struct CheckOptions {
  std::string name;
  ProblemArguments problem;
  std::vector<std::string> partials;
  std::uint64_t seed = 1;
  bool show = false;
};

/// The partial derivatives as the user wrote them: one formula for each variable.
SuppliedGradient supplied_gradient(const Problem& problem, const CheckOptions& options) {
  const auto names = problem.variable_names();
  std::vector<std::optional<Problem>> formulas(names.size());
  for (const std::string& partial : options.partials) {
    const std::size_t equals = partial.find('=');
    const std::string name(trimmed(std::string_view(partial).substr(0, equals)));
    const auto found = std::ranges::find(names, name);
    if (equals == std::string::npos || found == names.end()) {
      throw InputError(fmt::format("--partial: '{}' names no variable; write x=2*x - y{}", clipped(partial, 40),
                                   did_you_mean(name, names)));
    }
    formulas[static_cast<std::size_t>(found - names.begin())] =
        Problem::from_formula(std::string_view(partial).substr(equals + 1), names, options.problem.parameters());
  }
  for (std::size_t k = 0; k < names.size(); ++k) {
    if (!formulas[k])
      throw InputError(fmt::format("--partial for {} is missing: the derivative by each variable is needed", names[k]));
  }
  return [formulas](const Vector& x) {
    Vector gradient(x.size());
    for (Index i = 0; i < x.size(); ++i) gradient[i] = formulas[static_cast<std::size_t>(i)]->value(x);
    return gradient;
  };
}

void print_check(const Context& context, const Problem& problem, const DerivativeCheck& check) {
  const std::string& variable = problem.variables()[static_cast<std::size_t>(check.worst_variable)].name;
  const char* verdict = "agrees";
  std::string meaning = "to rounding, at every point";
  if (check.verdict == DerivativeCheck::Verdict::wrong_formula) {
    verdict = "wrong";
    meaning = fmt::format("the derivative by {} is that of another function", variable);
  } else if (check.verdict == DerivativeCheck::Verdict::rounding) {
    meaning = "but for rounding";
  }
  context.print("{}", block_line(verdict, meaning));
  context.print("{}", block_line("compared", fmt::format("{}, with {}", counted(check.points, "point"),
                                                         check.against_exact ? "the exact derivative"
                                                                             : "extrapolated differences")));
  if (check.points == 0) return;
  context.print(
      "{}", block_line("worst", fmt::format("by {} at {}: supplied {}, expected {}, relative error {}", variable,
                                            point_text(check.worst_point), short_number(check.supplied, 10),
                                            short_number(check.expected, 10), short_number(check.relative_error, 2))));
}

int check_derivative(const Context& context, const CheckOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  if (options.show || options.partials.empty()) {
    if (!problem.expression())
      throw InputError(fmt::format("{} is no expression: its derivatives cannot be written down", problem.name()));
    for (Index i = 0; i < problem.dimension(); ++i) {
      const std::string& name = problem.variables()[static_cast<std::size_t>(i)].name;
      context.print("{}", block_line("d/d" + name, to_formula(partial_derivative(*problem.expression(), i))));
    }
  }
  if (options.partials.empty()) return 0;
  const DerivativeCheck check = check_gradient(problem, supplied_gradient(problem, options), 20, options.seed);
  print_check(context, problem, check);
  return check.verdict == DerivativeCheck::Verdict::wrong_formula ? 1 : 0;
}

int check_methods(const Context& context, const std::vector<std::string>& names, std::uint64_t seed) {
  bool all_passed = true;
  for (const std::string& name : names) {
    const ConformanceReport report = check_method(context.additions.methods.parse(name), seed);
    context.print("\n  {}\n{}", report.method, to_text(report));
    all_passed = all_passed && report.passed();
  }
  return all_passed ? 0 : 1;
}

struct NoiseOptions {
  std::string name;
  ProblemArguments problem;
  std::string at;
  std::uint64_t seed = 1;
  bool json = false;
};

int check_noise(const Context& context, const NoiseOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  const Vector at = options.at.empty() ? start_point(problem, {.seed = options.seed})
                                       : parse_point(options.at, problem.variable_names(), "--at");
  problem.check_start(at);
  const NoiseEstimate noise = estimate_noise(problem, at, RandomStream(options.seed, {"check noise"}));
  const double relative = noise.level / std::abs(noise.value);
  if (options.json) {
    const auto number = [](bool is_known, double value) {
      return is_known && std::isfinite(value) ? nlohmann::ordered_json(value) : nlohmann::ordered_json(nullptr);
    };
    const nlohmann::ordered_json json = {{"problem", problem.name()},
                                         {"point", std::vector<double>(at.begin(), at.end())},
                                         {"value", number(true, noise.value)},
                                         {"noise", number(noise.found, noise.level)},
                                         {"relative", number(noise.found, relative)},
                                         {"spacing", noise.spacing},
                                         {"evaluations", noise.evaluations}};
    context.print("{}\n", json.dump());
    return noise.found ? 0 : 1;
  }
  context.print("\n  {}\n", problem.name());
  context.print("{}", block_line("point", fmt::format("{}, value {}", point_text(at), short_number(noise.value, 6))));
  if (!noise.found) {
    context.print("{}",
                  block_line("noise", "not found: at no spacing do the differences of values agree with one another; "
                                      "try another point or --seed"));
  } else if (noise.level == 0) {
    context.print("{}", block_line("noise", "none: all values about the point are equal"));
  } else {
    constexpr double rounding = 1e-13;
    const std::string part = std::isfinite(relative) ? fmt::format(", {} of the value", short_number(relative, 2)) : "";
    context.print("{}", block_line("noise", fmt::format("about {}{}{}", short_number(noise.level, 2), part,
                                                        relative < rounding ? ": the rounding of numbers" : "")));
    if (!(relative < rounding))
      context.print("{}", block_line("meaning", "differences of values, and gaps, below that say nothing: try "
                                                "bfgs:noise=0, lbfgs:noise=0 or cma-es:reevaluates=true"));
  }
  context.print("{}", block_line("effort", fmt::format("{}, spaced by {} of each variable's size",
                                                       counted(noise.evaluations, "evaluation"),
                                                       short_number(noise.spacing, 2))));
  return noise.found ? 0 : 1;
}

void add_check_noise(const Command& check, Context& context) {
  const Command command = check.command("noise", "how much noise the values of an objective carry");
  auto options = std::make_shared<NoiseOptions>();
  command.takes("problem", options->name, "PROBLEM", "a problem, with options after a colon");
  options->problem.add_to(command);
  command.takes("--at", options->at, "POINT", "where to look: 2.5,-1 or y=-1,x=2.5; by default at the start");
  add_seed(command, options->seed);
  command.flag("--json", options->json, "print one object");
  command.example("tanzen check noise sphere:dim=5,noise=normal:0.01 --at 1,1,1,1,1");
  command.does([options, &context] { context.exit_code = check_noise(context, *options); });
}

void add_check_method(const Command& check, Context& context) {
  const Command command = check.command("method", "whether a method does what every method must");
  auto names = std::make_shared<std::vector<std::string>>();
  auto seed = std::make_shared<std::uint64_t>(1);
  command.needs("method", *names, "METHOD", "a method, with settings after a colon; several are checked in turn");
  add_seed(command, *seed);
  command.example("tanzen check method nelder-mead");
  command.does([names, seed, &context] { context.exit_code = check_methods(context, *names, *seed); });
}

} // namespace

void add_check(const Command& command, Context& context) {
  command.needs_command();
  const Command derivative =
      command.command("derivative", "compare derivatives written by hand with the true ones, or show those");
  auto options = std::make_shared<CheckOptions>();
  derivative.takes("problem", options->name, "PROBLEM", "a problem, with options after a colon");
  options->problem.add_to(derivative);
  derivative.takes("--partial", options->partials, "NAME=FORMULA",
                   "a derivative as you have it: x=2*x - y; one for each variable");
  add_seed(derivative, options->seed);
  derivative.flag("--show", options->show, "print each partial derivative as a formula");
  derivative.example("tanzen check derivative --formula \"x^2 + 3*y^2 - x*y\" --partial \"x=2*x - y\" "
                     "--partial \"y=6*y - x\"");
  derivative.does([options, &context] { context.exit_code = check_derivative(context, *options); });
  add_check_method(command, context);
  add_check_noise(command, context);
  add_check_minima(command, context);
}

} // namespace tanzen::cli
