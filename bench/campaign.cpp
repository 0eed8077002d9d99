// What a campaign costs besides its runs: workers, storing, and comparing many results.
#include <tanzen/comparison/comparison.hpp>
#include <tanzen/results/results_file.hpp>
#include <tanzen/study/work.hpp>

#include <benchmark/benchmark.h>
#include <filesystem>
#include <unistd.h>

using namespace tanzen;

namespace {

namespace fs = std::filesystem;

/// Two methods on two problems of ten variables: with 5,000 evaluations 2,400 runs of some two milliseconds, with
/// 20,000 600 of some six.
Campaign campaign_of(std::int64_t evaluations) {
  PlanDefinition plan{.repeats = 3'000'000 / evaluations, .problems = {"rosenbrock:dim=10", "rastrigin:dim=10"}};
  plan.methods = {{"simplex", "nelder-mead"}, {"evolution", "differential-evolution"}};
  plan.stop = {.evaluations = evaluations};
  return Campaign(plan, PlanNames{});
}

fs::path results_path() {
  return fs::temp_directory_path() / fmt::format("tanzen-bench-{}.sqlite", getpid());
}

void do_all(const Campaign& campaign, std::size_t workers, const std::function<void(const RunRecord&)>& keep) {
  RunQueue queue(campaign, missing_runs(campaign));
  (void)work_on(campaign, workers, {[&] { return queue.next(); }, keep});
}

void campaign_kept_nowhere(benchmark::State& state) {
  const Campaign campaign = campaign_of(state.range(1));
  for (auto _ : state) do_all(campaign, static_cast<std::size_t>(state.range(0)), [](const RunRecord&) {});
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(campaign.size()));
}
BENCHMARK(campaign_kept_nowhere)->ArgsProduct({{1, 2}, {5'000, 20'000}})->UseRealTime()->Unit(benchmark::kMillisecond);

void campaign_in_a_file(benchmark::State& state) {
  const Campaign campaign = campaign_of(state.range(1));
  for (auto _ : state) {
    fs::remove(results_path());
    ResultsFile file = ResultsFile::for_campaign(results_path(), campaign);
    do_all(campaign, static_cast<std::size_t>(state.range(0)), [&](const RunRecord& record) { file.add(record); });
  }
  fs::remove(results_path());
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(campaign.size()));
}
BENCHMARK(campaign_in_a_file)->ArgsProduct({{1, 2}, {5'000, 20'000}})->UseRealTime()->Unit(benchmark::kMillisecond);

/// A file of 100,000 runs without traces: 50 problems of 10 variables, 20 methods, 100 repeats, made of real records.
void make_large_file() {
  PlanDefinition plan{.repeats = 100};
  for (int k = 1; k <= 50; ++k) plan.problems.push_back(fmt::format("ellipsoid:dim=10,placement={}", k));
  for (int k = 1; k <= 20; ++k) plan.methods.push_back({fmt::format("variant-{}", k), "bfgs"});
  plan.stop = {.evaluations = 1'000};
  plan.trace_rows = 0;
  const Campaign campaign(plan, PlanNames{});
  fs::remove(results_path());
  ResultsFile file = ResultsFile::for_campaign(results_path(), campaign);
  std::vector<RunRecord> some;
  for (std::size_t k = 0; k < 100; ++k) some.push_back(campaign.perform(campaign.key(k)));
  for (std::size_t k = 0; k < campaign.size(); ++k) {
    RunRecord& record = some[k % some.size()];
    record.key = campaign.key(k);
    file.add(record);
  }
}

void comparison_of_100000_runs(benchmark::State& state) {
  make_large_file();
  state.counters["bytes_a_run"] = static_cast<double>(fs::file_size(results_path())) / 1e5;
  for (auto _ : state) benchmark::DoNotOptimize(compare(ResultsFile::reading(results_path()).load()));
  fs::remove(results_path());
}
BENCHMARK(comparison_of_100000_runs)->UseRealTime()->Unit(benchmark::kMillisecond);

} // namespace
