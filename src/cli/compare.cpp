#include "arguments.hpp"
#include "commands.hpp"
#include "figure_kinds.hpp"
#include "names.hpp"
#include "progress.hpp"
#include "tanzen/report/campaign_report.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/specification.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/results/results_file.hpp"

#include <memory>

namespace tanzen::cli {
namespace {

struct CompareOptions {
  std::vector<std::string> problems;
  ProblemArguments problem;
  std::vector<std::string> methods;
  std::string plan;
  std::optional<std::int64_t> repeats, workers;
  std::uint64_t seed = 1;
  StopArguments stop{PlanDefinition{}.stop};
  DerivativeMode derivative = DerivativeMode::automatic;
  std::optional<double> gradient_weight;
  std::string by, only, form = "text", figures, report;
  bool each = false;
  bool as_json = false;
};

bool is_results_file(std::string_view name) {
  return name.ends_with(".sqlite");
}

PlanDefinition plan_of(const Context& context, const CompareOptions& options) {
  PlanDefinition plan;
  for (const std::string& written : options.methods) {
    const Method method = context.additions.methods.parse(written);
    PlannedMethod planned{.label = method.label(), .use = method.name()};
    planned.settings = Specification::parse(written).options;
    plan.methods.push_back(std::move(planned));
  }
  plan.problems = options.problems;
  plan.repeats = options.repeats.value_or(plan.repeats);
  plan.seed = options.seed;
  plan.stop = options.stop.rules();
  plan.stop.gap.reset(); // the smallest target's, where the best is known
  plan.smallest_gap = options.stop.gap().value_or(plan.smallest_gap);
  plan.derivative = options.derivative;
  plan.gradient_weight = options.gradient_weight.value_or(plan.gradient_weight);
  return plan;
}

Campaign campaign_of(const Context& context, const CompareOptions& options) {
  if (!options.plan.empty()) {
    if (!options.problems.empty() || !options.methods.empty() || options.problem.has_formula())
      throw InputError("--plan has its problems and methods; take those of the command line away");
    PlanDefinition plan = read_plan(options.plan);
    plan.gradient_weight = options.gradient_weight.value_or(plan.gradient_weight);
    return Campaign(std::move(plan), names_beside(context.additions, options.plan));
  }
  if (options.problems.empty() && !options.problem.has_formula())
    throw InputError(
        "compare needs a problem: a name ('tanzen problems' lists them), --formula, --plan plan.toml, or a "
        "results file");
  if (options.methods.empty())
    throw InputError("compare needs methods: --with nelder-mead --with differential-evolution");
  PlanDefinition plan = plan_of(context, options);
  const auto look_up = [&](const std::string& name) { return options.problem.problem(context.additions, name); };
  if (!options.problem.has_formula()) return Campaign(std::move(plan), {context.additions.methods, look_up});
  std::vector<Problem> problems;
  for (const std::string& name : options.problems) problems.push_back(look_up(name));
  problems.push_back(look_up(""));
  std::vector<Method> methods;
  for (const std::string& method : options.methods) methods.push_back(context.additions.methods.parse(method));
  return Campaign(std::move(plan), std::move(problems), std::move(methods));
}

Results results_of(const Context& context, const CompareOptions& options) {
  const bool is_file = std::ranges::any_of(options.problems, is_results_file);
  if (is_file) {
    if (options.problems.size() > 1 || !options.methods.empty() || !options.plan.empty())
      throw InputError(
          "a results file has its own problems and methods; compare it alone ('tanzen campaign merge' puts "
          "parts together)");
    return ResultsFile::reading(options.problems.front())
        .load(!options.figures.empty() || !options.report.empty(), options.gradient_weight);
  }
  const Campaign campaign = campaign_of(context, options);
  RunProgress progress(context.streams, 0, campaign.size(), false);
  const auto workers = static_cast<std::size_t>(options.workers.value_or(0));
  return run_campaign(campaign,
                      {.workers = workers, .counter = [&](std::size_t, std::size_t) { progress.note_run(false); }});
}

void print_document(const Context& context, const ComparisonParts& parts, bool each, bool is_latex) {
  for (const TitledTable& table : comparison_tables(parts, each)) {
    if (is_latex)
      context.print("% {}\n{}\n", table.title, table.table.latex());
    else
      context.print("**{}**\n\n{}\n", table.title, table.table.markdown());
  }
  for (const std::string& sentence : comparison_sentences(parts, each))
    context.print("{}{}.\n", is_latex ? "% " : "- ", is_latex ? sentence : safe_in_markdown(sentence));
}

void compare_and_print(const Context& context, const CompareOptions& options) {
  const std::vector<std::string> forms{"text", "markdown", "latex", "csv"};
  if (std::ranges::find(forms, options.form) == forms.end())
    throw InputError(fmt::format("--as must be one of {}; found '{}'{}", joined(forms, ", "), clipped(options.form, 40),
                                 did_you_mean(options.form, forms)));
  if (!options.figures.empty() && (options.as_json || options.form != "text"))
    throw InputError("--figures says on the output what it drew, so it goes with text only");
  if (!options.report.empty()) check_report_name(options.report);
  check_outputs(std::array{OutputFile{"--report", options.report}});
  const Results results = results_of(context, options);
  const ComparisonParts parts = comparison_parts(results, options.stop.gap(), options.by, options.only);
  if (options.as_json)
    context.print("{}\n", comparison_to_json(results, parts));
  else if (options.form == "csv")
    context.print("{}", comparison_to_csv(parts));
  else if (options.form == "text")
    context.print("{}", comparison_text(results, parts, options.each, context.width));
  else
    print_document(context, parts, options.each, options.form == "latex");
  if (!options.report.empty()) {
    write_report(campaign_report(
                     results, {.gap = options.stop.gap(),
                               .by = options.by.empty() ? "trait;family;dim" : options.by,
                               .stop = options.plan.empty() && !std::ranges::any_of(options.problems, is_results_file)
                                           ? std::optional(options.stop.rules())
                                           : std::nullopt,
                               .command = context.command,
                               .true_front = true_front,
                               .landscape =
                                   [&](const std::string& label) {
                                     return landscape_of(
                                         [&](const std::string& name) {
                                           return options.problem.problem(context.additions, name);
                                         },
                                         label);
                                   }}),
                 options.report);
    if (!options.as_json) context.print("{}", block_line("report", options.report));
  }
  if (options.figures.empty()) return;
  const ProblemGroup group =
      options.only.empty() ? group_problems(results).front() : only_problems(results, options.only);
  draw_comparisons(context, results, group, options.stop.gap(), options.figures);
}

} // namespace

void add_compare(const Command& command, Context& context) {
  auto options = std::make_shared<CompareOptions>();
  command.takes("problems", options->problems, "PROBLEM", "problems, families of them, or one results file (.sqlite)");
  options->problem.add_to(command);
  command.takes("--with", options->methods, "METHOD", "a method, with settings after a colon; several times");
  command.takes("--plan", options->plan, "FILE", "a plan in place of problems and methods");
  add_count(command, "--repeats", options->repeats, "runs of each method on each problem (21)", 1, 1'000'000);
  add_threads(command, "--workers", options->workers, "runs at once (as many as this machine can do)");
  add_seed(command, options->seed);
  options->stop.add_to(command);
  add_derivative(command, options->derivative);
  add_number(command, "--gradient-weight", options->gradient_weight, "evaluations that a gradient is charged (1)", 0);
  command.takes("--by", options->by, "KEYS", "a table for each trait, dim, family or option of the problems");
  command.takes("--only", options->only, "WORDS", "only the problems that are so: ill-conditioned,dim=10");
  command.flag("--each", options->each, "a table and a sentence for each problem, however many there are");
  command.takes("--as", options->form, "FORM", "text, markdown, latex or csv (text)");
  command.takes("--figures", options->figures, "FOLDER", "draw all figures of it into this folder");
  command.takes("--report", options->report, "FILE", "a page of it all for colleagues: .html, .md, .tex or .txt");
  command.flag("--json", options->as_json, "one object for machines");
  command.example("tanzen compare rosenbrock rastrigin --with nelder-mead --with differential-evolution --repeats 5");
  command.does([options, &context] { compare_and_print(context, *options); });
}

} // namespace tanzen::cli
