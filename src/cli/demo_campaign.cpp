#include "demo_campaign.hpp"

#include "figure_kinds.hpp"
#include "progress.hpp"
#include "tanzen/report/comparison_report.hpp"

#include "tanzen/files/plan_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/work.hpp"

namespace tanzen::cli {
namespace {

constexpr std::string_view plan_text = R"(title   = "Which family of methods for which kind of function?"
seed    = 7
repeats = 9

problems = [
  "rosenbrock:dim=2,5,10", "dixon-price:dim=5",                                             # curved valleys
  "ellipsoid:dim=2,5,10,rotate=1", "cigar:dim=5,10,rotate=1", "tablet:dim=5,10,rotate=1",   # narrow, one pit
  "sharp-ridge:dim=2,5",                                                                    # narrow, with a kink
  "rastrigin:dim=2,3,5", "ackley:dim=2,5", "griewank:dim=2,5", "levy:dim=2,5",              # many pits
]

[methods]
bfgs      = {}
simplex   = { use = "nelder-mead" }
model     = { use = "quadratic-model" }
cma-es    = {}
evolution = { use = "differential-evolution" }

[stop]
evaluations = 20_000
)";

} // namespace

void demo_campaign(const Context& context, const std::filesystem::path& folder) {
  const std::string_view heading = "5. A campaign: which family of methods for which kind of function?";
  context.print("\n{}\n{}\n\n", heading, std::string(heading.size(), '-'));
  const auto plan_path = folder / "5-families.toml", results_path = folder / "5-families.results.sqlite";
  write_file(plan_path, plan_text);
  std::filesystem::remove(results_path);
  const Campaign campaign(read_plan(plan_path), PlanNames{context.additions.methods});
  ResultsFile file = ResultsFile::for_campaign(results_path, campaign);
  RunQueue queue(campaign, missing_runs(campaign));
  {
    RunProgress progress(context.streams, 0, campaign.size(), false);
    const auto keep = [&](const RunRecord& record) {
      file.add(record);
      progress.note_run(is_failure(record.status));
    };
    (void)work_on(campaign, usual_workers(), {[&] { return queue.next(); }, keep});
    context.print("  {} from the plan {}, into {}\n", progress.summary(), plan_path.string(), results_path.string());
  }
  const Results results = file.load(true);
  context.print("{}\n",
                comparison_text(results, comparison_parts(results, std::nullopt, "", ""), false, context.width));
  for (const char* words : {"ill-conditioned,unimodal", "multimodal"}) {
    const ComparisonParts parts = comparison_parts(results, std::nullopt, "", words);
    for (const std::string& sentence : comparison_sentences(parts, false)) context.print("  On {}.\n", sentence);
  }
  context.print("\n");
  draw_comparisons(context, results, group_problems(results).front(), std::nullopt, folder / "5-figures");
  context.print("\n");
  write_campaign_report(context, results_path, folder / "5-families.report.html");
}

} // namespace tanzen::cli
