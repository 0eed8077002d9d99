// A tape against the same function as compiled C++, and its gradient against its value.
#include "functions.hpp"

#include <benchmark/benchmark.h>
#include <cmath>
#include <tanzen/expression/block_tape.hpp>
#include <tanzen/expression/tape.hpp>

namespace {

using namespace tanzen;

enum Function { polynomial, transcendental, chained };

template <class Point>
auto value_of(Function function, const Point& x) {
  if (function == polynomial) return bench::polynomial(x);
  return function == transcendental ? bench::transcendental(x) : bench::chained_valley(x);
}

Tape tape_of(Function function, Index n) {
  return Tape(Expression::traced(n, [function](const TracedPoint& x) { return value_of(function, x); }));
}

Vector point_of(Index n) {
  return Vector::LinSpaced(n, 0.1, 0.9);
}

void compiled(benchmark::State& state, Function function) {
  Vector x = point_of(state.range(0));
  for (auto _ : state) {
    benchmark::DoNotOptimize(x.data());
    benchmark::DoNotOptimize(value_of(function, x));
  }
}

void tape_value(benchmark::State& state, Function function) {
  const Tape tape = tape_of(function, state.range(0));
  auto work = tape.workspace();
  const Vector x = point_of(state.range(0));
  for (auto _ : state) benchmark::DoNotOptimize(tape.evaluate(x, work));
}

constexpr Index points_in_batch = 1000;

Matrix points_of(Index n) {
  return Matrix::Random(n, points_in_batch).cwiseAbs();
}

/// What a batch is measured against: the function as compiled C++, point by point.
void compiled_batch(benchmark::State& state, Function function) {
  const Matrix points = points_of(state.range(0));
  Vector values(points.cols());
  for (auto _ : state) {
    for (Index k = 0; k < points.cols(); ++k) values[k] = value_of(function, points.col(k));
    benchmark::DoNotOptimize(values.data());
    benchmark::ClobberMemory();
  }
}

void block_tape(benchmark::State& state, Function function) {
  const BlockTape tape(
      Expression::traced(state.range(0), [function](const TracedPoint& x) { return value_of(function, x); }));
  auto work = tape.workspace();
  const Matrix points = points_of(state.range(0));
  Vector values;
  for (auto _ : state) {
    tape.evaluate(points, work, values);
    benchmark::DoNotOptimize(values.data());
  }
}

/// From the traced function to a tape ready for use.
void tape_building(benchmark::State& state, Function function) {
  for (auto _ : state) {
    const Tape tape = tape_of(function, state.range(0));
    benchmark::DoNotOptimize(tape.workspace().values.data());
  }
}

void tape_gradient(benchmark::State& state, Function function) {
  const Tape tape = tape_of(function, state.range(0));
  auto work = tape.workspace();
  const Vector x = point_of(state.range(0));
  Vector gradient(x.size());
  for (auto _ : state) benchmark::DoNotOptimize(tape.gradient(x, work, gradient));
}

void tape_hessian_times(benchmark::State& state, Function function) {
  const Tape tape = tape_of(function, state.range(0));
  auto work = tape.workspace();
  const Vector x = point_of(state.range(0));
  Vector product(x.size());
  const double one = 1;
  for (auto _ : state) {
    tape.hessian_times(x, std::span(&one, 1), x, work, product);
    benchmark::DoNotOptimize(product.data());
  }
}

} // namespace

#define TANZEN_ALL_FORMS(function, size)                                                                               \
  BENCHMARK_CAPTURE(compiled, function, function)->Arg(size);                                                          \
  BENCHMARK_CAPTURE(tape_value, function, function)->Arg(size);                                                        \
  BENCHMARK_CAPTURE(compiled_batch, function, function)->Arg(size);                                                    \
  BENCHMARK_CAPTURE(block_tape, function, function)->Arg(size);                                                        \
  BENCHMARK_CAPTURE(tape_gradient, function, function)->Arg(size);                                                     \
  BENCHMARK_CAPTURE(tape_hessian_times, function, function)->Arg(size)

TANZEN_ALL_FORMS(polynomial, 10);
TANZEN_ALL_FORMS(transcendental, 10);
TANZEN_ALL_FORMS(chained, 1000);
BENCHMARK_CAPTURE(tape_building, chained, chained)->Arg(10'000)->Unit(benchmark::kMillisecond);
