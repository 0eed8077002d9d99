#include "tanzen/campaign/comparison.hpp"

#include "tanzen/base/errors.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr double infinity = std::numeric_limits<double>::infinity();

/// What is kept of one run.
struct RunRecord {
  double value = infinity; ///< best, to be minimized
  double cost = 0;
  bool success = false;
};

double total_cost(const Outcome& outcome) {
  return static_cast<double>(outcome.counts.evaluations + outcome.counts.gradients);
}

/// Ranks within one repeat: successes by cost, then failures by gap.
std::vector<double> ranks_of(const std::vector<RunRecord>& records) {
  std::vector<double> values;
  for (const RunRecord& record : records) values.push_back(record.value);
  const std::vector<double> by_value = mean_ranks(values);
  std::vector<double> keys;
  for (std::size_t m = 0; m < records.size(); ++m)
    keys.push_back(records[m].success ? records[m].cost : 1e18 * by_value[m]);
  return mean_ranks(keys);
}

ComparisonRow summarized(const Method& method, const std::vector<RunRecord>& records, double reference) {
  ComparisonRow row{.method = method.label(), .repeats = static_cast<std::int64_t>(records.size())};
  std::vector<double> gaps, costs, spent;
  for (const RunRecord& record : records) {
    row.successes += record.success ? 1 : 0;
    gaps.push_back(std::isinf(record.value) ? infinity : record.value - reference);
    costs.push_back(record.success ? record.cost : infinity);
    spent.push_back(record.cost);
  }
  row.success_interval = wilson_interval(row.successes, row.repeats);
  row.lower_quartile_gap = quantile(gaps, 0.25);
  row.median_gap = median(gaps);
  row.upper_quartile_gap = quantile(gaps, 0.75);
  row.median_cost = median(costs);
  row.expected_running_time = expected_running_time(spent, row.successes);
  return row;
}

/// All runs of one problem: a row a repeat, a column a method.
class ProblemRuns {
 public:
  ProblemRuns(const ComparisonPlan& plan, const Problem& problem) : plan_(plan), problem_(problem) {}

  void run_all(const std::function<void()>& count_one) {
    for (std::int64_t repeat = 1; repeat <= plan_.repeats; ++repeat) {
      auto& row = records_.emplace_back();
      for (const Method& method : plan_.methods) {
        row.push_back(run_one(method, repeat));
        count_one();
      }
    }
  }

  [[nodiscard]] ProblemComparison summary() {
    ProblemComparison summary{.problem = problem_.name(), .rows = {}};
    const auto known = problem_.best_known();
    summary.reference_is_known = known.has_value();
    const double reference = known ? problem_.sign() * *known : best_of_all();
    summary.reference = problem_.sign() * reference;
    for (auto& row : records_) {
      for (RunRecord& record : row)
        record.success = std::isfinite(record.value) && record.value - reference <= plan_.gap;
    }
    std::vector<double> rank_sums(plan_.methods.size(), 0);
    for (const auto& row : records_) {
      const auto ranks = ranks_of(row);
      for (std::size_t m = 0; m < ranks.size(); ++m) rank_sums[m] += ranks[m];
    }
    for (std::size_t m = 0; m < plan_.methods.size(); ++m) {
      std::vector<RunRecord> column;
      for (const auto& row : records_) column.push_back(row[m]);
      summary.rows.push_back(summarized(plan_.methods[m], column, reference));
      summary.rows.back().mean_rank = rank_sums[m] / static_cast<double>(records_.size());
    }
    return summary;
  }

 private:
  RunRecord run_one(const Method& method, std::int64_t repeat) {
    RunOptions options{.seed = plan_.seed, .repeat = static_cast<std::uint64_t>(repeat), .stop = plan_.stop};
    options.derivative = plan_.derivative;
    options.trace.most_rows = 2; // nothing is read from it
    if (problem_.best_known()) options.stop.gap = plan_.gap;
    const Outcome outcome = run(problem_, method, options);
    const double value = std::isnan(outcome.value) ? infinity : problem_.sign() * outcome.value;
    return {value, total_cost(outcome), false};
  }

  [[nodiscard]] double best_of_all() const {
    double best = infinity;
    for (const auto& row : records_) {
      for (const RunRecord& record : row) best = std::min(best, record.value);
    }
    return best;
  }

  const ComparisonPlan& plan_;
  const Problem& problem_;
  std::vector<std::vector<RunRecord>> records_;
};

} // namespace

std::vector<ProblemComparison> compare(const ComparisonPlan& plan, const RunCounter& counter) {
  if (plan.problems.empty()) throw InputError("the comparison names no problem");
  if (plan.methods.empty()) throw InputError("the comparison names no method");
  if (plan.repeats < 1) throw InputError(fmt::format("a comparison needs at least 1 repeat, not {}", plan.repeats));
  const auto all = static_cast<std::int64_t>(plan.problems.size() * plan.methods.size()) * plan.repeats;
  std::int64_t done = 0;
  std::vector<ProblemComparison> results;
  for (const Problem& problem : plan.problems) {
    ProblemRuns runs(plan, problem);
    runs.run_all([&] {
      if (counter) counter(++done, all);
    });
    results.push_back(runs.summary());
  }
  return results;
}

} // namespace tanzen
