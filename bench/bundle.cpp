// Many parts on one tape by a scalarization, against one function of as many operations: the design allows 1.3 times
// for value and gradient together; a robust loss against plain squares likewise.
#include <benchmark/benchmark.h>
#include <cmath>
#include <tanzen/search/evaluator.hpp>
#include <tanzen/tanzen.hpp>

namespace {

using namespace tanzen;

constexpr Index variables = 100, constraints = 100;
constexpr double penalty = 10;

/// The k-th constraint, each of a few neighbours.
Expr constraint(const TracedPoint& x, Index k) {
  const Index next = (k + 1) % variables, far = (k + 7) % variables;
  return x[k] * x[next] + sin(x[far]) - 0.3 * x[k];
}

Expr objective(const TracedPoint& x) {
  Expr sum;
  for (Index k = 0; k < variables; ++k) sum += pow(x[k] - 0.5, 2);
  return sum;
}

/// f + rho/2 sum of (c_k + y/rho)^2, as an augmented Lagrangian of equalities has it.
class Penalty final : public Scalarization {
 public:
  [[nodiscard]] double value(const Evaluation& at) const override {
    const auto c = at.constraints();
    double sum = 0;
    for (Index k = 0; k < c.size(); ++k) sum += (c[k] + 0.1) * (c[k] + 0.1);
    return at.objectives()[0] + 0.5 * penalty * sum;
  }
  void slopes(const Evaluation& at, Vector& by_part) const override {
    by_part[0] = 1;
    by_part.tail(constraints) = penalty * (at.constraints().array() + 0.1);
  }
};

Problem bundled() {
  std::vector<Constraint> rows(constraints, {.name = "row", .lower = 0, .upper = 0});
  return Problem::from_function(variables, objective).with_constraints(std::move(rows), [](const TracedPoint& x) {
    std::vector<Expr> all;
    for (Index k = 0; k < constraints; ++k) all.push_back(constraint(x, k));
    return all;
  });
}

Problem written_out() {
  return Problem::from_function(variables, [](const TracedPoint& x) {
    Expr sum;
    for (Index k = 0; k < constraints; ++k) sum += pow(constraint(x, k) + 0.1, 2);
    return objective(x) + 0.5 * penalty * sum;
  });
}

void spend(benchmark::State& state, Evaluator& evaluate) {
  Vector x = Vector::LinSpaced(variables, -1, 1);
  for (auto _ : state) {
    x[3] += 1e-9;
    benchmark::DoNotOptimize(evaluate.value_and_gradient(x).value);
  }
}

void one_function_of_as_many_operations(benchmark::State& state) {
  Evaluator evaluate(written_out(), {.evaluations = {}}, DerivativeMode::exact);
  spend(state, evaluate);
}

void augmented_lagrangian_on_one_tape(benchmark::State& state) {
  Evaluator evaluate(bundled(), {.evaluations = {}}, DerivativeMode::exact);
  const Penalty augmented;
  Evaluator view = evaluate.with(augmented);
  spend(state, view);
}

void fit_by(benchmark::State& state, const Loss& loss) {
  auto table = std::make_shared<DataTable>(DataTable{{"t", "y"}, Matrix(10'000, 2)});
  for (Index k = 0; k < table->rows.rows(); ++k) {
    const double t = 1e-3 * static_cast<double>(k);
    table->rows.row(k) << t, 3 * std::exp(-0.5 * t) + 0.1 * std::sin(31 * t);
  }
  const Expression row =
      Expression::traced(5, [](const TracedPoint& x) { return x[0] + x[1] * exp(-x[2] * x[3]) - x[4]; });
  Evaluator evaluate(Problem::from_rows(row, table).with_loss(loss), {.evaluations = {}}, DerivativeMode::exact);
  Vector x{{0.1, 2, 0.4}};
  for (auto _ : state) {
    x[0] += 1e-9;
    benchmark::DoNotOptimize(evaluate.value_and_gradient(x).value);
  }
}

void loss_of_squares(benchmark::State& state) {
  fit_by(state, {});
}
void loss_of_huber(benchmark::State& state) {
  fit_by(state, Loss::parse("huber:0.05"));
}
void loss_of_cauchy(benchmark::State& state) {
  fit_by(state, Loss::parse("cauchy:0.05"));
}

} // namespace

BENCHMARK(one_function_of_as_many_operations);
BENCHMARK(augmented_lagrangian_on_one_tape);
BENCHMARK(loss_of_squares);
BENCHMARK(loss_of_huber);
BENCHMARK(loss_of_cauchy);
