#include "tanzen/comparison/comparison.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/statistics/profiles.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// What the runs of one repeat are ranked by: successes by cost, then failures by gap.
std::vector<double> keys_of(const std::vector<const ResultsRun*>& runs, std::size_t target) {
  constexpr double above_all_costs = 1e18;
  std::vector<double> gaps;
  for (const ResultsRun* run : runs) gaps.push_back(run->gap);
  const std::vector<double> by_gap = mean_ranks(gaps);
  std::vector<double> keys;
  for (std::size_t m = 0; m < runs.size(); ++m) {
    const double cost = runs[m]->cost_to(target);
    keys.push_back(std::isfinite(cost) ? cost : above_all_costs * by_gap[m]);
  }
  return keys;
}

/// The costs of all runs to all targets.
std::vector<double> costs_to_all(const std::vector<const ResultsRun*>& runs, std::size_t targets) {
  std::vector<double> costs;
  for (const ResultsRun* run : runs) {
    for (std::size_t k = 0; k < targets; ++k) costs.push_back(run->cost_to(k));
  }
  return costs;
}

/// The median rate of convergence at the end of the runs, in decades for 100 evaluations.
std::optional<double> rate_of(const std::vector<const ResultsRun*>& runs, const std::vector<double>& gaps) {
  std::vector<double> rates;
  for (const ResultsRun* run : runs) {
    if (const auto rate = decades_per_evaluation(gaps, run->hits)) rates.push_back(100 * *rate);
  }
  if (rates.empty()) return std::nullopt;
  return median(rates);
}

ComparisonRow summarized(const Results& results, std::size_t problem, std::size_t method, std::size_t target,
                         const CostRange& range, const Resampling& resampling) {
  const auto runs = results.runs(problem, method);
  ComparisonRow row{.method = results.methods()[method], .repeats = static_cast<std::int64_t>(runs.size())};
  std::vector<double> gaps, costs, spent;
  std::vector<bool> is_success;
  for (const ResultsRun* run : runs) {
    const double cost = run->cost_to(target);
    is_success.push_back(std::isfinite(cost));
    row.successes += is_success.back() ? 1 : 0;
    gaps.push_back(run->gap);
    costs.push_back(cost);
    spent.push_back(is_success.back() ? cost : run->cost);
    if (run->message.empty()) continue;
    if (row.failures++ == 0) row.first_failure = run->message;
  }
  row.success_interval = wilson_interval(row.successes, row.repeats);
  row.lower_quartile_gap = quantile(gaps, 0.25);
  row.median_gap = median(gaps);
  row.upper_quartile_gap = quantile(gaps, 0.75);
  row.median_cost = median(costs);
  row.expected_running_time = expected_running_time(spent, row.successes);
  row.running_time_interval = resampling.running_time(spent, is_success);
  row.rate = rate_of(runs, results.problems()[problem].gaps);
  const auto all = costs_to_all(runs, results.problems()[problem].gaps.size());
  if (range.least < range.most) row.anytime = area_under(runtime_distribution(all), range.least, range.most);
  return row;
}

ProblemComparison comparison_on(const Results& results, std::size_t p, std::optional<double> gap,
                                const Resampling& resampling) {
  const ResultsProblem& problem = results.problems()[p];
  const auto& repeats = results.repeats_of(p);
  const std::size_t target = results.target_for(p, gap), methods = results.methods().size();
  ProblemComparison comparison{.problem = problem.label,
                               .gap = problem.gaps[target],
                               .reference = problem.reference,
                               .reference_is_known = problem.reference_is_known,
                               .is_front = !problem.objectives.empty(),
                               .rows = {},
                               .keys = Matrix(static_cast<Index>(repeats.size()), static_cast<Index>(methods))};
  Vector rank_sums = Vector::Zero(static_cast<Index>(methods));
  for (std::size_t r = 0; r < repeats.size(); ++r) {
    std::vector<const ResultsRun*> runs;
    for (std::size_t m = 0; m < methods; ++m) runs.push_back(&results.run({p, repeats[r], m}));
    const auto keys = keys_of(runs, target);
    const auto ranks = mean_ranks(keys);
    for (std::size_t m = 0; m < methods; ++m) {
      comparison.keys(static_cast<Index>(r), static_cast<Index>(m)) = keys[m];
      rank_sums[static_cast<Index>(m)] += ranks[m];
    }
  }
  const CostRange range = cost_range(results, p);
  for (std::size_t m = 0; m < methods; ++m) {
    comparison.rows.push_back(summarized(results, p, m, target, range, resampling));
    comparison.rows.back().mean_rank = rank_sums[static_cast<Index>(m)] / static_cast<double>(repeats.size());
  }
  return comparison;
}

} // namespace

CostRange cost_range(const Results& results, std::size_t problem) {
  CostRange range;
  for (std::size_t m = 0; m < results.methods().size(); ++m) {
    for (const ResultsRun* run : results.runs(problem, m)) range.most = std::max(range.most, run->cost);
  }
  return range;
}

std::vector<ProblemComparison> compare(const Results& results, std::optional<double> gap) {
  std::vector<ProblemComparison> comparisons;
  std::optional<Resampling> resampling; // most problems have the same number of repeats
  for (std::size_t p = 0; p < results.problems().size(); ++p) {
    const auto repeats = static_cast<Index>(results.repeats_of(p).size());
    if (repeats == 0) continue;
    if (!resampling || resampling->size() != repeats) resampling.emplace(repeats);
    comparisons.push_back(comparison_on(results, p, gap, *resampling));
  }
  if (comparisons.empty())
    throw InputError(
        fmt::format("there is nothing to compare yet: of {} runs {} are done, and no repeat by all methods",
                    results.planned(), results.done()));
  return comparisons;
}

} // namespace tanzen
