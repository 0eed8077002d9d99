#include "tanzen/report/campaign_report.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/comparison/verdict.hpp"
#include "tanzen/results/results_checksum.hpp"
#include "tanzen/version.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::size_t most_groups = 16;

/// The groups that a reader may choose: all problems, then those by each key, and single problems.
std::vector<ProblemGroup> groups_of(const Results& results, const std::string& keys) {
  std::vector<ProblemGroup> groups = group_problems(results);
  for (const std::string& by : split(keys, ';')) {
    try {
      for (ProblemGroup& group : group_problems(results, by)) {
        const bool is_there =
            std::ranges::any_of(groups, [&](const ProblemGroup& other) { return other.problems == group.problems; });
        if (!is_there && groups.size() < most_groups) groups.push_back(std::move(group));
      }
    } catch (const InputError&) {
      continue; // no problem has such a key
    }
  }
  std::erase_if(groups, [&](const ProblemGroup& group) {
    return std::ranges::all_of(group.problems, [&](std::size_t p) { return results.repeats_of(p).empty(); });
  });
  return groups;
}

/// `Each run was allowed 20000 evaluations and 100000 iterations.`
std::string budget_text(const StopRules& stop) {
  std::vector<std::string> limits;
  if (stop.evaluations) limits.push_back(counted(*stop.evaluations, "evaluation"));
  if (stop.iterations) limits.push_back(counted(*stop.iterations, "iteration"));
  if (stop.seconds) limits.push_back(fmt::format("{} s", number_text(*stop.seconds)));
  if (limits.empty()) return "No run had a limit.";
  return fmt::format("Each run was allowed at most {}.", joined(limits, " and "));
}

ReportSection what_was_asked(const Results& results, const ComparisonParts& parts,
                             const std::optional<StopRules>& stop) {
  ReportSection section{.title = "What was asked, and how it was run", .blocks = {}};
  section.blocks.emplace_back(Paragraph{fmt::format(
      "{} on {}, {} each: {} of {} runs are done. Seed {}; all methods of a repeat begin at the same point.",
      counted(static_cast<long long>(results.methods().size()), "method"),
      counted(static_cast<long long>(results.problems().size()), "problem"), counted(results.repeats(), "repeat"),
      results.done(), results.planned(), results.seed())});
  if (stop) section.blocks.emplace_back(Paragraph{budget_text(*stop)});
  section.blocks.emplace_back(Paragraph{std::string(trimmed(comparison_notes(results, parts)))});
  Table table;
  table.column("method", Table::Align::left);
  table.column("what it is", Table::Align::left);
  for (std::size_t m = 0; m < results.methods().size(); ++m)
    table.row({results.methods()[m], results.method_names()[m]}, {.method = results.methods()[m]});
  section.blocks.emplace_back(TitledTable{"methods", std::move(table)});
  section.blocks.emplace_back(Paragraph{fmt::format("Written by Tanzen {}.", version)});
  return section;
}

ReportSection figures_section(const Results& results, const std::vector<ProblemGroup>& groups,
                              const ComparisonFigureOptions& how) {
  ReportSection section{.title = "The figures", .blocks = {}};
  for (const ComparisonFigureKind& kind : comparison_figure_kinds()) {
    for (const ProblemGroup& group : groups) {
      if (auto figure = figure_of_kind(kind, results, group, how))
        section.blocks.emplace_back(GroupFigure{std::move(*figure), group.name});
    }
  }
  return section;
}

/// How a run's gap fell, in few places.
ReportRun run_of(const Results& results, std::size_t p, std::size_t m, const ResultsRun& run, const char* which) {
  constexpr double step = 1.05; // of cost and of gap between two places
  const ResultsProblem& problem = results.problems()[p];
  ReportRun told{.problem = problem.label,
                 .method = results.methods()[m],
                 .about = fmt::format("{} run of {}: {}, gap {}, cost {:.0f}{}", which, results.methods()[m],
                                      status_word(run.status), short_number(run.gap, 3), run.cost,
                                      run.message.empty() ? "" : "; " + clipped(run.message, 160)),
                 .cost = {},
                 .gap = {}};
  const double sign = sign_of(problem.sense);
  for (std::size_t k = 0; k < run.progress.cost.size(); ++k) {
    const double gap = sign * (run.progress.best[k] - problem.reference), cost = run.progress.cost[k];
    if (std::isnan(gap)) continue;
    const bool is_last = k + 1 == run.progress.cost.size();
    const bool is_new = told.cost.empty() || cost > step * told.cost.back() || gap * step < told.gap.back();
    if (!is_last && !is_new) continue;
    told.cost.push_back(cost);
    told.gap.push_back(gap);
  }
  return told;
}

/// The best, the middle and the worst run of each method on each problem.
std::vector<ReportRun> runs_to_look_at(const Results& results) {
  std::vector<ReportRun> all;
  for (std::size_t p = 0; p < results.problems().size(); ++p) {
    for (std::size_t m = 0; m < results.methods().size(); ++m) {
      std::vector<const ResultsRun*> runs = results.runs(p, m);
      if (runs.empty()) continue;
      std::ranges::stable_sort(runs, {}, [](const ResultsRun* run) { return std::pair(run->gap, run->cost); });
      const std::array<std::pair<const char*, std::size_t>, 3> places{
          {{"best", 0}, {"middle", runs.size() / 2}, {"worst", runs.size() - 1}}};
      for (const auto& [which, place] : places) all.push_back(run_of(results, p, m, *runs[place], which));
    }
  }
  return all;
}

ReportSection problems_section(const ComparisonParts& parts, const CampaignReportOptions& options) {
  ReportSection section{.title = "Problem by problem", .blocks = {}};
  for (const ProblemComparison& problem : parts.problems) {
    section.blocks.emplace_back(problem_table(problem));
    if (const std::string verdict = verdict_text(problem); !verdict.empty())
      section.blocks.emplace_back(Paragraph{verdict + "."});
    if (!options.landscape) continue;
    if (auto figure = options.landscape(problem.problem))
      section.blocks.emplace_back(GroupFigure{std::move(*figure), "", true});
  }
  return section;
}

} // namespace

Report campaign_report(const Results& results, const CampaignReportOptions& options) {
  const ComparisonParts parts = comparison_parts(results, options.gap, "", "");
  const std::vector<ProblemGroup> groups = groups_of(results, options.by);
  Report report{.title = results.title().empty() ? "Methods compared" : results.title(), .sections = {}};
  report.sections.push_back(what_was_asked(results, parts, options.stop));

  std::vector<std::string> sentences;
  for (const ProblemGroup& group : groups) {
    if (group.problems.size() < 2) continue;
    const GroupComparison compared = compare_over(parts.problems, results, group);
    if (const std::string verdict = verdict_text(compared); !verdict.empty()) sentences.push_back(verdict + ".");
  }
  if (sentences.empty()) {
    for (const std::string& sentence : comparison_sentences(parts, true)) sentences.push_back(sentence + ".");
  }
  report.sections.push_back({"What the data support", {LineList{std::move(sentences)}}});

  ReportSection tables{.title = "The tables", .blocks = {}};
  tables.blocks.emplace_back(success_table(parts.problems));
  for (TitledTable& table : group_tables(parts)) tables.blocks.emplace_back(std::move(table));
  report.sections.push_back(std::move(tables));

  report.sections.push_back(figures_section(results, groups, {.gap = options.gap, .true_front = options.true_front}));
  report.sections.push_back(problems_section(parts, options));
  const auto failures = failure_lines(parts);
  report.sections.push_back(
      {"What failed, and why",
       {failures.empty() ? ReportBlock(Paragraph{"No run failed or diverged."}) : ReportBlock(LineList{failures})}});
  ReportSection again{.title = "How to repeat it", .blocks = {}};
  if (!options.command.empty()) again.blocks.emplace_back(Verbatim{"Command", options.command});
  again.blocks.emplace_back(Paragraph{fmt::format(
      "Checksum of all runs: {:08x}. The same plan with the same program gives the same.", results_checksum(results))});
  if (!options.plan.empty()) again.blocks.emplace_back(Verbatim{"Plan", options.plan});
  report.sections.push_back(std::move(again));

  report.choice.methods = results.methods();
  for (const ProblemGroup& group : groups) {
    ReportChoice::Group& named = report.choice.groups.emplace_back();
    named.name = group.name;
    for (const std::size_t p : group.problems) named.problems.push_back(results.problems()[p].label);
  }
  report.choice.runs = runs_to_look_at(results);
  return report;
}

} // namespace tanzen
