#include "tanzen/report/campaign_report.hpp"

#include "arguments.hpp"
#include "commands.hpp"
#include "demo_campaign.hpp"
#include "figure_kinds.hpp"
#include "names.hpp"
#include "progress.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/landscape_figure.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/results/results_file.hpp"

#include <memory>

namespace tanzen::cli {
std::optional<Figure> landscape_of(const std::function<Problem(const std::string&)>& named, const std::string& label) {
  try {
    const Problem problem = named(label);
    // Looking at a file starts nothing: a program has no landscape here.
    if (problem.dimension() != 2 || problem.objectives().size() > 1 || is_program(problem)) return std::nullopt;
    Figure figure = landscape_figure(problem, {.resolution = 140});
    figure.title = label;
    return figure;
  } catch (const InputError&) {
    return std::nullopt;
  }
}

namespace {

struct ReportOptions {
  std::string source, output, by = "trait;family;dim";
  std::optional<double> gap;
  std::optional<std::int64_t> workers;
};

void write_and_say(const Context& context, const Results& results, const PlanDefinition& plan,
                   const ReportOptions& options) {
  const PlanNames names = names_beside(context.additions, options.source);
  const Report report = campaign_report(
      results, {.gap = options.gap,
                .by = options.by,
                .stop = plan.stop,
                .plan = plan_to_toml(plan),
                .command = context.command,
                .true_front = true_front,
                .landscape = [&](const std::string& label) { return landscape_of(names.problem, label); }});
  write_report(report, options.output);
  for (const std::string& sentence : std::get<LineList>(report.sections[1].blocks.front()).lines)
    context.print("  {}\n", sentence);
  context.print("{}", block_line("report", options.output));
}

void report(const Context& context, ReportOptions options) {
  const std::filesystem::path source = options.source;
  if (options.output.empty())
    options.output = (source.parent_path() / split(source.filename().string(), '.').front()).string() + ".report.html";
  check_report_name(options.output);
  check_outputs(std::array{OutputFile{"--output", options.output}});
  if (source.extension() == ".toml") {
    PlanDefinition plan = read_plan(source);
    const Campaign campaign(plan, names_beside(context.additions, source));
    RunProgress progress(context.streams, 0, campaign.size(), false);
    const Results results =
        run_campaign(campaign, {.workers = static_cast<std::size_t>(options.workers.value_or(0)),
                                .counter = [&](std::size_t, std::size_t) { progress.note_run(false); }});
    write_and_say(context, results, plan, options);
    return;
  }
  const ResultsFile file = ResultsFile::reading(source);
  write_and_say(context, file.load(true), file.plan(), options);
}

} // namespace

void write_campaign_report(const Context& context, const std::filesystem::path& results,
                           const std::filesystem::path& output) {
  ReportOptions options;
  options.source = results.string();
  options.output = output.string();
  const ResultsFile file = ResultsFile::reading(results);
  write_and_say(context, file.load(true), file.plan(), options);
}

void add_report(const Command& command, Context& context) {
  auto options = std::make_shared<ReportOptions>();
  command.needs("results", options->source, "FILE", "a results file (.sqlite), or a plan (.toml), which is run first");
  command.takes("--output", options->output, "FILE", "the page: .html, .md, .tex or .txt (beside the results)");
  command.takes("--by", options->by, "KEYS", "groups that a reader may choose: trait;family;dim");
  add_number(command, "--gap", options->gap, "what counts as success (the smallest target)", 0);
  add_threads(command, "--workers", options->workers, "runs of a plan at once (as many as this machine can do)");
  command.example("tanzen report plan.results.sqlite");
  command.does([options, &context] { report(context, *options); });
}

} // namespace tanzen::cli
