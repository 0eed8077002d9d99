// What an enclosure costs beside a plain number: the same formulas by a tape and by an interval tape, values and
// gradients, at a point and over a box around it.
#include "tanzen/expression/tape.hpp"
#include "tanzen/interval/interval_tape.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <benchmark/benchmark.h>

#include <array>
#include <vector>

using namespace tanzen;

namespace {

constexpr std::array names{"rosenbrock", "himmelblau", "branin", "ackley", "rastrigin:dim=5", "hartmann-6"};

Problem chosen(const benchmark::State& state) {
  return testbed::parse_problem(names[static_cast<std::size_t>(state.range(0))]);
}

Vector somewhere(const Problem& problem) {
  const Box box = problem.sampling_box();
  return box.lower + 0.37 * box.width();
}

void plain_value(benchmark::State& state) {
  const Problem problem = chosen(state);
  const Tape tape(*problem.expression());
  auto work = tape.workspace();
  const Vector x = somewhere(problem);
  for (auto _ : state) benchmark::DoNotOptimize(tape.evaluate(x, work));
}

void plain_gradient(benchmark::State& state) {
  const Problem problem = chosen(state);
  const Tape tape(*problem.expression());
  auto work = tape.workspace();
  const Vector x = somewhere(problem);
  Vector gradient;
  for (auto _ : state) {
    tape.evaluate(x, work);
    tape.gradient(x, work, gradient);
    benchmark::DoNotOptimize(gradient.data());
  }
}

void enclosed(benchmark::State& state, IntervalTape::Order order) {
  const Problem problem = chosen(state);
  const IntervalTape tape(*problem.expression());
  auto work = tape.workspace();
  std::vector<Enclosure> box;
  for (const double x : somewhere(problem)) box.emplace_back(x - 0.01, x + 0.01);
  for (auto _ : state) {
    benchmark::DoNotOptimize(tape.evaluate(box, order, work));
    benchmark::ClobberMemory();
  }
}
void interval_value(benchmark::State& state) {
  enclosed(state, IntervalTape::Order::value);
}
void interval_gradient(benchmark::State& state) {
  enclosed(state, IntervalTape::Order::gradient);
}

} // namespace

BENCHMARK(plain_value)->DenseRange(0, names.size() - 1);
BENCHMARK(interval_value)->DenseRange(0, names.size() - 1);
BENCHMARK(plain_gradient)->DenseRange(0, names.size() - 1);
BENCHMARK(interval_gradient)->DenseRange(0, names.size() - 1);
