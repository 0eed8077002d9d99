#include "arguments.hpp"
#include "commands.hpp"
#include "comparison_text.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/campaign/comparison.hpp"

#include <cmath>
#include <memory>
#include <nlohmann/json.hpp>
#include <unistd.h>

namespace tanzen::cli {
namespace {

using Json = nlohmann::ordered_json;

struct CompareOptions {
  std::vector<std::string> problems;
  ProblemArguments problem;
  std::vector<std::string> methods;
  std::optional<std::int64_t> repeats;
  std::uint64_t seed = 1;
  StopArguments stop;
  DerivativeMode derivative = DerivativeMode::automatic;
  bool as_json = false;
};

ComparisonPlan plan_of(const Context& context, const CompareOptions& options) {
  ComparisonPlan plan;
  for (const std::string& name : options.problems)
    plan.problems.push_back(options.problem.problem(context.additions, name));
  if (options.problem.has_formula()) plan.problems.push_back(options.problem.problem(context.additions, ""));
  for (const std::string& method : options.methods) plan.methods.push_back(context.additions.methods.parse(method));
  if (plan.problems.empty())
    throw InputError("compare needs a problem: a name ('tanzen problems' lists them) or --formula");
  if (plan.methods.empty()) throw InputError("compare needs methods: --with nelder-mead --with differential-evolution");
  for (const Problem& problem : plan.problems) {
    for (const Method& method : plan.methods) {
      if (problem.bounds().any() && method.card().bounds.empty()) {
        throw InputError(fmt::format("{} cannot keep within bounds, and {} has them", method.name(), problem.name()));
      }
    }
  }
  plan.repeats = options.repeats.value_or(plan.repeats);
  plan.seed = options.seed;
  const auto budget = plan.stop.evaluations;
  plan.stop = options.stop.rules();
  if (plan.stop.evaluations == StopRules{}.evaluations) plan.stop.evaluations = budget;
  plan.gap = options.stop.gap().value_or(plan.gap);
  plan.stop.gap.reset(); // the plan's own, where the best is known
  plan.derivative = options.derivative;
  return plan;
}

Json number_or_null(double value) {
  return std::isfinite(value) ? Json(value) : Json(nullptr);
}

Json to_json(const ComparisonPlan& plan, const std::vector<ProblemComparison>& results) {
  Json problems = Json::array();
  for (const auto& result : results) {
    Json rows = Json::array();
    for (const auto& row : result.rows) {
      rows.push_back(
          {{"method", row.method},
           {"repeats", row.repeats},
           {"successes", row.successes},
           {"success_interval", {row.success_interval.lower, row.success_interval.upper}},
           {"median_gap", number_or_null(row.median_gap)},
           {"quartile_gaps", {number_or_null(row.lower_quartile_gap), number_or_null(row.upper_quartile_gap)}},
           {"median_cost", number_or_null(row.median_cost)},
           {"expected_running_time", row.expected_running_time ? Json(*row.expected_running_time) : Json(nullptr)},
           {"mean_rank", row.mean_rank}});
    }
    problems.push_back({{"problem", result.problem},
                        {"reference", number_or_null(result.reference)},
                        {"reference_is_known", result.reference_is_known},
                        {"methods", rows}});
  }
  return {{"gap", plan.gap}, {"repeats", plan.repeats}, {"seed", plan.seed}, {"problems", problems}};
}

/// A line that counts the runs, on a terminal only.
RunCounter terminal_counter(const Streams& streams) {
  if (isatty(fileno(streams.err)) == 0) return {};
  return [&streams](std::int64_t done, std::int64_t all) {
    if (done < all)
      fmt::print(streams.err, "\r  run {} of {}", done, all);
    else
      fmt::print(streams.err, "\r\x1b[K");
    std::fflush(streams.err);
  };
}

void compare_and_print(const Context& context, const CompareOptions& options) {
  const ComparisonPlan plan = plan_of(context, options);
  const auto results = compare(plan, terminal_counter(context.streams));
  if (options.as_json) {
    context.print("{}\n", to_json(plan, results).dump());
    return;
  }
  for (const auto& result : results) context.print("\n{}", comparison_table(result));
  context.print("\n{}", comparison_notes(plan));
}

} // namespace

void add_compare(CLI::App& program, Context& context) {
  auto* command = program.add_subcommand("compare", "many methods on many problems, many times");
  auto options = std::make_shared<CompareOptions>();
  command->add_option("problems", options->problems, "problems, with options after a colon")->type_name("PROBLEM");
  options->problem.add_to(*command);
  command->add_option("--with", options->methods, "a method, with settings after a colon; several times")
      ->type_name("METHOD")
      ->allow_extra_args(false);
  add_count(*command, "--repeats", options->repeats, "runs of each method on each problem (15)");
  add_seed(*command, options->seed);
  options->stop.add_to(*command);
  add_derivative(*command, options->derivative);
  command->add_flag("--json", options->as_json, "one object for machines");
  command->footer(
      "Example: tanzen compare rosenbrock rastrigin --with nelder-mead --with differential-evolution --repeats 5");
  command->callback([options, &context] { compare_and_print(context, *options); });
}

} // namespace tanzen::cli
