#include "arguments.hpp"
#include "commands.hpp"
#include "interrupt.hpp"
#include "names.hpp"
#include "progress.hpp"
#include "tanzen/report/table.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/work.hpp"

#include <filesystem>
#include <memory>

namespace tanzen::cli {
namespace {

namespace fs = std::filesystem;
constexpr int interrupted = 130;

struct CampaignOptions {
  std::string plan;
  std::string output;
  std::string part;
  std::optional<std::int64_t> workers;
  bool extend = false;
  bool dry_run = false;
  bool quiet = false;
};

struct MergeOptions {
  std::string whole;
  std::vector<std::string> parts;
};

struct ExportOptions {
  std::string results;
  std::string folder = ".";
};

std::size_t workers_of(const CampaignOptions& options) {
  return options.workers ? static_cast<std::size_t>(*options.workers) : usual_workers();
}

/// `plan.results.sqlite`, or `plan.2of3.results.sqlite` for a part, beside the plan.
fs::path output_of(const CampaignOptions& options, const CampaignPart& part) {
  if (!options.output.empty()) {
    if (!options.output.ends_with(".sqlite"))
      throw InputError(
          fmt::format("--output: a results file ends in .sqlite; found '{}'", clipped(options.output, 60)));
    return options.output;
  }
  fs::path path = options.plan;
  return path.replace_extension(part.of > 1 ? fmt::format("{}of{}.results.sqlite", part.number, part.of)
                                            : "results.sqlite");
}

/// Tries runs spread over the campaign until they have taken a second or two.
void estimate(const Context& context, const Campaign& campaign, std::size_t workers) {
  constexpr double patience = 2;
  constexpr std::size_t most = 60;
  const std::size_t stride = std::max<std::size_t>(1, campaign.size() / most);
  std::vector<double> seconds;
  double spent = 0;
  // A prime step through the campaign mixes problems and methods from the first try on.
  for (std::size_t k = 0; k < std::min(most, campaign.size()) && spent < patience; ++k) {
    const std::size_t place = (k * 7919 * stride) % campaign.size();
    seconds.push_back(campaign.perform(campaign.key(place)).seconds);
    spent += seconds.back();
  }
  const double mean = spent / static_cast<double>(seconds.size());
  const double all = mean * static_cast<double>(campaign.size()) / static_cast<double>(workers);
  context.print(
      "{}",
      block_line("time", fmt::format("about {} with {}, by {} tried, which took {} each", duration_text(all),
                                     counted(static_cast<long long>(workers), "worker"),
                                     counted(static_cast<long long>(seconds.size()), "run"), duration_text(mean))));
}

void show_plan(const Context& context, const Campaign& campaign, const CampaignOptions& options) {
  const auto count = [](std::size_t n, const char* what) { return counted(static_cast<long long>(n), what); };
  Table table;
  table.column("problem", Table::Align::left);
  table.column("variables");
  table.column("targets", Table::Align::left);
  for (const CampaignProblem& each : campaign.problems()) {
    const std::string targets =
        each.gaps.empty() ? "from the best value of all runs"
                          : fmt::format("{} from {} to {}", count(each.gaps.size(), "gap"),
                                        short_number(each.gaps.front(), 3), short_number(each.gaps.back(), 3));
    table.row({each.label, std::to_string(each.problem.dimension()), targets});
  }
  if (!campaign.plan().title.empty()) context.print("\n  {}\n", campaign.plan().title);
  context.print("\n{}\n", table.text(context.width));
  std::vector<std::string> methods;
  for (const Method& method : campaign.methods()) methods.push_back(method.label());
  context.print("{}", block_line("methods", joined(methods, ", ")));
  context.print(
      "{}",
      block_line("runs", fmt::format("{}: {}, {}, {}", campaign.size(), count(campaign.problems().size(), "problem"),
                                     count(methods.size(), "method"), counted(campaign.plan().repeats, "repeat"))));
  const auto program =
      std::ranges::find_if(campaign.problems(), [](const auto& each) { return is_program(each.problem); });
  if (program == campaign.problems().end())
    estimate(context, campaign, workers_of(options));
  else
    context.print("{}", block_line("time", fmt::format("not tried: {} is another program, which only a run starts",
                                                       program->label)));
}

void run_plan(Context& context, const CampaignOptions& options) {
  if (options.plan.empty())
    throw InputError("campaign needs a plan: tanzen campaign plan.toml; --dry-run shows what it comes to");
  const Campaign campaign(read_plan(options.plan), names_beside(context.additions, options.plan));
  const CampaignPart part = options.part.empty() ? CampaignPart{} : CampaignPart::parse(options.part);
  if (options.dry_run) {
    show_plan(context, campaign, options);
    return;
  }
  const fs::path output = output_of(options, part);
  const auto if_changed = options.extend ? ResultsFile::IfChanged::extend : ResultsFile::IfChanged::refuse;
  const InterruptGuard guard; // before there is a file that Ctrl-C could leave behind
  ResultsFile file = ResultsFile::for_campaign(output, campaign, if_changed);
  const std::set<RunKey> done = file.done();
  RunQueue queue(campaign, missing_runs(campaign, done, part));
  std::string summary;
  bool is_complete = true;
  {
    RunProgress progress(context.streams, done.size(), done.size() + queue.size(), !options.quiet);
    const auto keep = [&](const RunRecord& record) {
      file.add(record);
      progress.note_run(is_failure(record.status));
    };
    is_complete = work_on(campaign, workers_of(options), {[&] { return queue.next(); }, keep},
                          [] { return InterruptGuard::is_asked(); });
    summary = progress.summary();
  }
  file.check_in_place();
  if (!done.empty()) context.print("{}", block_line("found", fmt::format("{} runs in the file already", done.size())));
  context.print("{}{}", block_line(is_complete ? "done" : "interrupted", summary),
                block_line("results", output.string()));
  if (!is_complete) {
    context.print("{}", block_line("next", "the same command goes on where this one stopped"));
    context.exit_code = interrupted;
  } else if (part.of == 1) {
    context.print("{}", block_line("next", fmt::format("tanzen compare {}", output.string())));
  }
}

void merge(const Context& context, const MergeOptions& options) {
  const std::vector<fs::path> parts(options.parts.begin(), options.parts.end());
  const std::size_t added = merge_results(options.whole, parts);
  context.print("{}{}", block_line("added", fmt::format("{} runs", added)), block_line("results", options.whole));
}

void export_tables(const Context& context, const ExportOptions& options) {
  export_results(ResultsFile::reading(options.results), options.folder);
  for (const char* name : {"runs.csv", "hits.csv", "traces.csv"})
    context.print("{}", block_line("table", (fs::path(options.folder) / name).string()));
}

} // namespace

void add_campaign(const Command& command, Context& context) {
  auto options = std::make_shared<CampaignOptions>();
  command.takes("plan", options->plan, "PLAN", "the plan (TOML)");
  command.takes("--output", options->output, "FILE", "the results file (beside the plan, by its name)");
  add_threads(command, "--workers", options->workers, "runs at once (as many as this machine can do)");
  command.takes("--part", options->part, "PART", "only a part of the runs, for one of several machines: 2/3");
  command.flag("--extend", options->extend, "take over what the plan adds to an earlier one");
  command.flag("--dry-run", options->dry_run, "say what the plan comes to, and how long it may take");
  command.flag("--quiet", options->quiet, "no lines on how far it is");
  command.example("tanzen campaign examples/valleys.toml --dry-run");

  const Command merging = command.command("merge", "put the results of several parts into one file");
  auto merge_options = std::make_shared<MergeOptions>();
  merging.needs("whole", merge_options->whole, "FILE", "the file that all go into");
  merging.needs("parts", merge_options->parts, "FILES", "results files of one plan");
  merging.example("tanzen campaign merge whole.sqlite plan.1of2.results.sqlite plan.2of2.results.sqlite");
  merging.does([merge_options, &context] { merge(context, *merge_options); });

  const Command exporting = command.command("export", "the results as tables: runs.csv, hits.csv, traces.csv");
  auto export_options = std::make_shared<ExportOptions>();
  exporting.needs("results", export_options->results, "FILE", "a results file");
  exporting.takes("--folder", export_options->folder, "FOLDER", "where the tables go (here)");
  exporting.example("tanzen campaign export plan.results.sqlite --folder tables");
  exporting.does([export_options, &context] { export_tables(context, *export_options); });

  command.does([options, command, &context] {
    if (!command.has_command()) run_plan(context, *options);
  });
}

} // namespace tanzen::cli
