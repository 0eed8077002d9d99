// Residuals and Jacobian of a million rows from one row's formula, five parameters, against a loop in compiled C++ with
// derivatives written by hand: the design allows 2.5 times.
#include <benchmark/benchmark.h>
#include <cmath>
#include <tanzen/problem/definition.hpp>
#include <tanzen/tanzen.hpp>

namespace {

using namespace tanzen;

constexpr Index rows = 1'000'000;

Problem fit() {
  auto table = std::make_shared<DataTable>(DataTable{{"t", "y"}, Matrix(rows, 2)});
  for (Index k = 0; k < rows; ++k) {
    const double t = 10.0 * static_cast<double>(k) / rows;
    table->rows.row(k) << t, 3 * std::exp(-1.5 * t) + 2 * std::exp(-0.2 * t) + 0.5 + 0.01 * std::sin(1000 * t);
  }
  ProblemDefinition definition{.name = "decay"};
  for (const char* name : {"a", "b", "c", "d", "level"}) definition.variables.push_back({.name = name, .start = {1}});
  definition.fit = FitDefinition{
      .data = "made up", .equations = {{.model = "y = a*exp(-b*t) + c*exp(-d*t) + level"}}, .table = std::move(table)};
  return build_problem(definition);
}

const Vector start{{2.0, 1.0, 1.5, 0.3, 0.2}};

void written_by_hand(benchmark::State& state) {
  const Problem problem = fit();
  const Matrix& data = problem.table()->rows;
  Vector residuals(rows);
  Matrix jacobian(rows, 5);
  Vector x = start;
  for (auto _ : state) {
    x[0] += 1e-9;
    for (Index k = 0; k < rows; ++k) {
      const double t = data(k, 0), quick = std::exp(-x[1] * t), slow = std::exp(-x[3] * t);
      residuals[k] = data(k, 1) - (x[0] * quick + x[2] * slow + x[4]);
      jacobian(k, 0) = -quick;
      jacobian(k, 1) = x[0] * t * quick;
      jacobian(k, 2) = -slow;
      jacobian(k, 3) = x[2] * t * slow;
      jacobian(k, 4) = -1;
    }
    benchmark::DoNotOptimize(jacobian.data());
    benchmark::DoNotOptimize(residuals.data());
  }
}

void from_the_formula(benchmark::State& state) {
  const Problem problem = fit();
  const auto worker = problem.bundle()->worker();
  Vector residuals, x = start;
  Matrix jacobian;
  for (auto _ : state) {
    x[0] += 1e-9;
    residuals.resize(rows);
    jacobian.resize(rows, 5);
    worker->visit_jacobian(x, [&](Index first, const Vector& values, const Matrix& block) {
      residuals.segment(first, values.size()) = values;
      jacobian.middleRows(first, values.size()) = block;
    });
    benchmark::DoNotOptimize(jacobian.data());
  }
}

void from_the_formula_in_blocks(benchmark::State& state) {
  const Problem problem = fit();
  const auto worker = problem.bundle()->worker();
  Vector x = start;
  for (auto _ : state) {
    x[0] += 1e-9;
    worker->visit_jacobian(x,
                           [](Index, const Vector&, const Matrix& block) { benchmark::DoNotOptimize(block.data()); });
  }
}

BENCHMARK(written_by_hand)->Unit(benchmark::kMillisecond);
BENCHMARK(from_the_formula)->Unit(benchmark::kMillisecond);
BENCHMARK(from_the_formula_in_blocks)->Unit(benchmark::kMillisecond);

} // namespace
