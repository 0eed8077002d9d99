// Fronts: the exact volume of 1,000 points in three to six objectives; nondominated ranks of 100,000 points of two
// against std::sort of them, 3 times at most; and what a run spends beside its objectives, with and without an archive.
#include <algorithm>
#include <benchmark/benchmark.h>
#include <cmath>
#include <tanzen/numeric/random.hpp>
#include <tanzen/statistics/fronts.hpp>
#include <tanzen/tanzen.hpp>

namespace {

using namespace tanzen;

/// Points on a sphere, none of which dominates another.
Matrix on_sphere(Index objectives, Index count) {
  RandomStream random(7, {"bench fronts"});
  Matrix points(objectives, count);
  for (Index k = 0; k < count; ++k) {
    for (Index i = 0; i < objectives; ++i) points(i, k) = std::abs(random.normal());
    points.col(k).normalize();
  }
  return points;
}

void volume_of_1000_points(benchmark::State& state) {
  const Matrix points = on_sphere(state.range(0), 1000);
  const Vector reference = Vector::Constant(points.rows(), 1.1);
  for (auto _ : state) benchmark::DoNotOptimize(hypervolume(points, reference));
}
BENCHMARK(volume_of_1000_points)->DenseRange(2, 6)->Unit(benchmark::kMillisecond);

Matrix in_square(Index count) {
  RandomStream random(8, {"bench ranks"});
  Matrix points(2, count);
  for (double& value : points.reshaped()) value = random.uniform();
  return points;
}

void std_sort_of_100000_points(benchmark::State& state) {
  const Matrix points = in_square(100'000);
  std::vector<std::array<double, 2>> pairs;
  for (Index k = 0; k < points.cols(); ++k) pairs.push_back({points(0, k), points(1, k)});
  for (auto _ : state) {
    auto sorted = pairs;
    std::ranges::sort(sorted);
    benchmark::DoNotOptimize(sorted.data());
  }
}
BENCHMARK(std_sort_of_100000_points)->Unit(benchmark::kMillisecond);

void ranks_of_100000_points(benchmark::State& state) {
  const Matrix points = in_square(100'000);
  for (auto _ : state) benchmark::DoNotOptimize(nondominated_ranks(points).data());
}
BENCHMARK(ranks_of_100000_points)->Unit(benchmark::kMillisecond);

void run_of_10000_evaluations(benchmark::State& state, const char* name, const char* with) {
  const Problem problem = testbed::parse_problem(name);
  for (auto _ : state) benchmark::DoNotOptimize(run(problem, method(with), {.stop = {.evaluations = 10'000}}).value);
}
BENCHMARK_CAPTURE(run_of_10000_evaluations, two_objectives, "zdt-1", "nondominated-sorting")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(run_of_10000_evaluations, three_objectives, "dtlz-2", "reference-points")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(run_of_10000_evaluations, by_hypervolume, "zdt-1", "hypervolume-selection")
    ->Unit(benchmark::kMillisecond);

} // namespace
