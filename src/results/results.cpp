#include "tanzen/results/results.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/specification.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/statistics/summaries.hpp"
#include "tanzen/study/targets.hpp"
#include "tanzen/study/work.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// A label's name and options. A program's own problem may have any name: what is no specification has no options.
Specification specification_of(const std::string& label) {
  try {
    return Specification::parse(label);
  } catch (const InputError&) {
    return {.name = label, .options = {}};
  }
}

/// Cost and best value so far of a trace's first row, and of each row that is better than all before it.
TraceProgress improvements(const TraceProgress& progress, double sign) {
  TraceProgress better;
  for (std::size_t k = 0; k < progress.cost.size(); ++k) {
    if (std::isnan(progress.best[k])) continue;
    if (!better.best.empty() && sign * progress.best[k] >= sign * better.best.back()) continue;
    better.cost.push_back(progress.cost[k]);
    better.best.push_back(progress.best[k]);
  }
  return better;
}

} // namespace

std::string ResultsProblem::family() const {
  return specification_of(label).name;
}

std::string ResultsProblem::option(std::string_view name) const {
  for (const auto& [key, value] : specification_of(label).options) {
    if (key == name) return value;
  }
  return "";
}

std::string ResultsProblem::label_without(std::string_view option) const {
  const Specification specification = specification_of(label);
  std::string text = specification.name;
  for (const auto& [name, value] : specification.options) {
    if (name != option) text += (text == specification.name ? ":" : ",") + name + "=" + value;
  }
  return text;
}

std::vector<std::string> ResultsProblem::option_names() const {
  std::vector<std::string> names;
  for (const auto& [key, value] : specification_of(label).options) names.push_back(key);
  return names;
}

ResultsHead results_head(const Campaign& campaign) {
  const PlanDefinition& plan = campaign.plan();
  ResultsHead head{.title = plan.title,
                   .seed = plan.seed,
                   .repeats = plan.repeats,
                   .gradient_weight = plan.gradient_weight,
                   .plan_gaps = plan.gaps,
                   .smallest_gap = plan.smallest_gap,
                   .problems = {},
                   .methods = {},
                   .method_names = {}};
  for (const CampaignProblem& each : campaign.problems()) {
    const auto best = each.problem.best_value();
    head.problems.push_back(
        {.label = each.label,
         .dimension = each.problem.dimension(),
         .sense = each.problem.value_sense(),
         .traits = each.problem.traits(),
         .objectives = each.problem.objectives().size() > 1 ? each.problem.objectives() : std::vector<Objective>(),
         .gaps = each.gaps,
         .reference = best.value_or(std::numeric_limits<double>::quiet_NaN()),
         .reference_is_known = best.has_value()});
  }
  for (const Method& method : campaign.methods()) {
    head.methods.push_back(method.label());
    head.method_names.push_back(method.name());
  }
  return head;
}

TraceProgress trace_progress(const Trace& trace, double gradient_weight, Index dimension) {
  TraceProgress progress;
  for (std::size_t row = 0; row < trace.rows(); ++row) {
    const auto count = [&](std::size_t column) {
      const double number = trace.at(row, column);
      return static_cast<std::int64_t>(std::isfinite(number) ? number : 0);
    };
    const Counts counts(Counts::Numbers{count(Trace::evaluations), count(Trace::gradients), count(Trace::hessians)});
    progress.cost.push_back(counts.cost(gradient_weight, static_cast<double>(dimension)));
    progress.best.push_back(trace.at(row, Trace::best_value));
  }
  return progress;
}

Results::Results(ResultsHead head) : head_(std::move(head)) {
  runs_.resize(head_.problems.size() * static_cast<std::size_t>(head_.repeats) * head_.methods.size());
}

void Results::add(const RunRecord& record, bool with_trace) {
  const std::size_t p = record.key.problem;
  const ResultsProblem& problem = head_.problems[p];
  const auto cost = [&](const Counts& counts) {
    return counts.cost(head_.gradient_weight, static_cast<double>(problem.dimension));
  };
  ResultsRun& run = runs_[place(record.key)];
  done_ += run.is_done ? 0 : 1;
  run.is_done = true;
  run.status = record.status;
  run.value = record.value;
  run.gap = std::isnan(record.value) ? infinity : sign_of(problem.sense) * (record.value - problem.reference);
  run.cost = cost(record.counts);
  run.seconds = record.seconds;
  run.feasible = record.feasible;
  if (!record.feasible) run.gap = infinity; // a success is feasible
  run.hits.clear();
  for (const Counts& counts : record.hits) run.hits.push_back(cost(counts));
  if (is_failure(record.status)) run.message = record.message;
  if (with_trace) run.front = record.front;
  if (with_trace || !problem.reference_is_known)
    run.progress = trace_progress(record.trace, head_.gradient_weight, problem.dimension);
}

void Results::refer_to_best(std::size_t p) {
  ResultsProblem& problem = head_.problems[p];
  const double sign = sign_of(problem.sense);
  std::vector<ResultsRun*> all;
  std::vector<TraceProgress> progress;
  double best = infinity;
  std::vector<double> first_gaps;
  const std::size_t width = static_cast<std::size_t>(head_.repeats) * head_.methods.size();
  for (std::size_t k = p * width; k < (p + 1) * width; ++k) {
    if (!runs_[k].is_done) continue;
    all.push_back(&runs_[k]);
    progress.push_back(improvements(runs_[k].progress, sign));
    if (!std::isnan(runs_[k].value) && runs_[k].feasible) best = std::min(best, sign * runs_[k].value);
  }
  problem.reference = std::isfinite(best) ? sign * best : std::numeric_limits<double>::quiet_NaN();
  for (const TraceProgress& each : progress) {
    if (!each.best.empty()) first_gaps.push_back(sign * each.best.front() - best);
  }
  problem.gaps = head_.plan_gaps;
  if (problem.gaps.empty()) problem.gaps = gaps_from(first_gaps.empty() ? 1 : median(first_gaps), head_.smallest_gap);
  for (std::size_t k = 0; k < all.size(); ++k) {
    all[k]->gap = std::isnan(all[k]->value) || !all[k]->feasible ? infinity : sign * all[k]->value - best;
    const TraceProgress& run = progress[k];
    for (std::size_t row = 0; row < run.cost.size(); ++row) {
      const double gap = sign * run.best[row] - best;
      while (all[k]->hits.size() < problem.gaps.size() && gap <= problem.gaps[all[k]->hits.size()])
        all[k]->hits.push_back(run.cost[row]);
    }
  }
}

void Results::finish() {
  for (std::size_t p = 0; p < head_.problems.size(); ++p) {
    if (!head_.problems[p].reference_is_known) refer_to_best(p);
    auto& complete = complete_.emplace_back();
    for (std::int64_t repeat = 1; repeat <= head_.repeats; ++repeat) {
      bool all_done = true;
      for (std::size_t m = 0; m < head_.methods.size(); ++m) all_done = all_done && run({p, repeat, m}).is_done;
      if (all_done) complete.push_back(repeat);
    }
  }
}

std::vector<const ResultsRun*> Results::runs(std::size_t problem, std::size_t method) const {
  std::vector<const ResultsRun*> found;
  for (const std::int64_t repeat : complete_[problem]) found.push_back(&run({problem, repeat, method}));
  return found;
}

std::size_t Results::target_for(std::size_t problem, std::optional<double> gap) const {
  const auto& gaps = head_.problems[problem].gaps;
  if (!gap) return gaps.size() - 1;
  constexpr double rounding = 1 + 1e-9;
  const auto found = std::ranges::find_if(gaps, [&](double each) { return each <= *gap * rounding; });
  if (found == gaps.end())
    throw InputError(fmt::format("the smallest target of {} is a gap of {}; {} was not looked for",
                                 head_.problems[problem].label, number_text(gaps.back()), number_text(*gap)));
  return static_cast<std::size_t>(found - gaps.begin());
}

Results run_campaign(const Campaign& campaign, const CampaignRun& how) {
  std::optional<ResultsFile> file;
  if (!how.file.empty()) file = ResultsFile::for_campaign(how.file, campaign, ResultsFile::IfChanged::refuse);
  RunQueue queue(campaign, missing_runs(campaign, file ? file->done() : std::set<RunKey>()));
  Results results(results_head(campaign));
  if (file) file->for_each([&](const RunRecord& record) { results.add(record, true); });
  const auto keep = [&](const RunRecord& record) {
    results.add(record, true);
    if (file) file->add(record);
    if (how.counter) how.counter(results.done(), results.planned());
  };
  (void)work_on(campaign, how.workers == 0 ? usual_workers() : how.workers, {[&] { return queue.next(); }, keep},
                how.asked_to_stop);
  results.finish();
  return results;
}

} // namespace tanzen
