// Sums over data: gradients of some rows at a time.
#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/problem/data_table.hpp"
#include "tanzen/search/run.hpp"

#include <doctest/doctest.h>
#include <Eigen/Cholesky>

#include <algorithm>
#include <cmath>
#include <numeric>

using namespace tanzen;

namespace {

/// Shrinkage of clay measured at firings, made up: a quarter percent a step of the kiln, with scatter.
std::shared_ptr<const DataTable> firings(Index rows) {
  RandomStream random(11, {"firings"});
  Matrix data(rows, 2);
  for (Index r = 0; r < rows; ++r) {
    data(r, 0) = random.uniform(-1, 1);
    data(r, 1) = 0.5 + 2 * data(r, 0) + 0.1 * random.normal();
  }
  return std::make_shared<DataTable>(DataTable{{"heat", "shrinkage"}, data});
}

/// A line through them, by squares as a plain sum.
Problem line_through(Index rows) {
  return Problem::from_sum(2, firings(rows),
                           [](const auto& x, const auto& row) { return pow(x[0] + x[1] * row[0] - row[1], 2); })
      .named("line")
      .start({0, 0});
}

/// The same as a fit.
Problem fit_of_rows(Index rows) {
  const auto table = firings(rows);
  auto graph = std::make_shared<Graph>(4);
  const TracedPoint all(*graph);
  const Expr residual = all[0] + all[1] * all[2] - all[3];
  const NodeId root = residual.node_in(*graph);
  return Problem::from_rows(Expressions(std::move(graph), {root}), table).named("fit").start({0, 0});
}

Vector least_squares(Index rows) {
  const auto table = firings(rows);
  Matrix system(rows, 2);
  system.col(0).setOnes();
  system.col(1) = table->rows.col(0);
  return (system.transpose() * system).ldlt().solve(system.transpose() * table->rows.col(1));
}

} // namespace

TEST_SUITE("sums over data") {
  TEST_CASE("have the value and the derivatives of the sum written out") {
    const auto table = firings(37); // no multiple of a block
    const Problem sum = line_through(37), fit = fit_of_rows(37);
    const Vector x{{0.3, -0.7}};
    double value = 0;
    for (Index r = 0; r < 37; ++r) value += std::pow(x[0] + x[1] * table->rows(r, 0) - table->rows(r, 1), 2);
    CHECK(sum.value(x) == doctest::Approx(value));
    CHECK(fit.value(x) == doctest::Approx(value));
    CHECK(sum.gradient(x).isApprox(fit.gradient(x), 1e-12));
    CHECK(sum.hessian(x).isApprox(fit.hessian(x), 1e-12));
    CHECK(sum.parts().residuals == 0); // no method takes the terms for residuals
    CHECK(sum.objective().rows() == 37);
    CHECK(fit.objective().rows() == 37);
    CHECK(sum.noisy(Noise::parse("normal:0.1")).objective().rows() == 0);
  }

  TEST_CASE("the gradients of all parts of the rows make the whole one, of a fit under any loss and weights too") {
    const Problem robust = fit_of_rows(50).with_loss(Loss::parse("huber:0.2"), Vector(Vector::LinSpaced(50, 0.5, 2)));
    for (const Problem& problem : {line_through(50), fit_of_rows(50), robust}) {
      const auto worker = problem.objective().worker();
      const Vector x{{-0.2, 1.1}};
      Vector whole, part, sum = Vector::Zero(2);
      (void)worker->gradient(x, whole);
      RandomStream random(1, {"order"});
      const auto order = random_order(50, random);
      for (std::size_t first = 0; first < 50; first += 7) {
        worker->row_gradient(x, std::span(order).subspan(first, std::min<std::size_t>(7, 50 - first)), part);
        sum += part;
      }
      CHECK(sum.isApprox(whole, 1e-12));
    }
    Vector gradient;
    const Problem plain = Problem::from_formula("x^2");
    CHECK_THROWS_AS(plain.objective().worker()->row_gradient(Vector{{1}}, std::array<Index, 1>{0}, gradient),
                    ProblemError);
  }

  TEST_CASE("an epoch counts as one gradient and one value, whatever the size of a batch") {
    for (const Index batch : {1, 7, 50, 1000}) {
      CAPTURE(batch);
      const Outcome outcome = run(line_through(50), method("adam").with("batch", static_cast<double>(batch)),
                                  {.stop = {.iterations = 6}, .trace = {.points = true}});
      CHECK(outcome.counts[Spent::gradients] == 6);
      CHECK(outcome.counts[Spent::evaluations] == 7); // the start's too
      CHECK(outcome.trace.column("epoch").back() == 6);
    }
  }

  TEST_CASE("a batch of all rows is the plain method, but that a value comes after each step") {
    const RunOptions options{.stop = {.iterations = 30}};
    for (const char* by : {"adam", "gradient-descent", "yogi"}) {
      CAPTURE(by);
      const Outcome whole = run(line_through(40), method(by, {{"step", 0.005}}), options);
      const Outcome batched = run(line_through(40), method(by, {{"step", 0.005}, {"batch", 40}}), options);
      CHECK(batched.last_point.isApprox(whole.last_point, 1e-9)); // rows are added in another order
    }
  }

  TEST_CASE("orders hang on the seed alone") {
    const auto end_of = [](std::uint64_t seed) {
      return run(line_through(60), method("adam", {{"batch", 4}}), {.seed = seed, .stop = {.iterations = 5}})
          .last_point;
    };
    CHECK(end_of(3) == end_of(3));
    CHECK(end_of(3) != end_of(4));
  }

  TEST_CASE("small batches come near the minimum in fewer passes over the data") {
    const Vector best = least_squares(500);
    const auto away = [&](const Method& by) {
      return (run(line_through(500), by, {.stop = {.iterations = 5}}).last_point - best).norm();
    };
    CHECK(away(method("adam", {{"step", 0.02}, {"batch", 10}})) < 0.05);
    CHECK(away(method("adam", {{"step", 0.02}})) > 1);
  }

  TEST_CASE("with a constant step stochastic gradients end in a ripple, variance reduction at the minimum") {
    const Vector best = least_squares(200);
    const RunOptions options{.stop = {.iterations = 60}};
    const Outcome ripple = run(line_through(200), method("gradient-descent", {{"step", 1e-4}, {"batch", 1}}), options);
    const Outcome reduced = run(line_through(200), method("variance-reduced", {{"step", 0.05}}), options);
    CHECK((ripple.last_point - best).norm() > 1e-4);
    CHECK((reduced.last_point - best).norm() < 1e-8);
    CHECK(reduced.converged());
    // One whole gradient, and two passes of two gradients each, an iteration.
    CHECK(reduced.counts[Spent::gradients] == 5 * reduced.iterations + 1);
    // Of a function that is no sum it is steepest descent.
    CHECK(run(Problem::from_formula("2*x^2 + 0.7*y^2").start({2.5, -1}), method("variance-reduced")).converged());
  }

  TEST_CASE("decoupled decay takes its part of the point off, beside the update (Loshchilov and Hutter, 2019)") {
    const Problem flat = Problem::from_formula("0*x + 0*y").start({2.5, -1});
    const Outcome outcome =
        run(flat, method("adam", {{"decoupled_decay", 0.1}}), {.stop = {.iterations = 3, .gradient_tolerance = {}}});
    CHECK(outcome.last_point.isApprox(0.9 * 0.9 * 0.9 * Vector{{2.5, -1}}));
    // It follows the schedule, not the step: with half the step it is the same.
    const Outcome other = run(flat, method("adam", {{"decoupled_decay", 0.1}, {"step", 0.005}}),
                              {.stop = {.iterations = 3, .gradient_tolerance = {}}});
    CHECK(other.last_point == outcome.last_point);
  }

  TEST_CASE("what has no batches says so") {
    const auto run_with = [](const Problem& problem, const char* method, DerivativeMode derivative) {
      static_cast<void>(run(problem, standard_methods().parse(method), {.derivative = derivative}));
    };
    const Problem bowl = Problem::from_formula("x^2").start({1}).named("bowl");
    CHECK_THROWS_WITH_AS(run_with(bowl, "adam:batch=4", DerivativeMode::automatic),
                         "bowl is no sum over data, so there are no batches of it: leave the setting batch out",
                         InputError);
    CHECK_THROWS_WITH_AS(
        run_with(line_through(20), "adam:batch=4", DerivativeMode::central),
        "a gradient by differences is of all data at once, so there are no batches of it: leave the setting batch out",
        InputError);
    CHECK_THROWS_AS(run_with(line_through(20), "gradient-descent:rule=wolfe,batch=2", DerivativeMode::automatic),
                    InputError);
    CHECK_THROWS_AS(static_cast<void>(Problem::from_sum(1, nullptr, [](const auto& x, const auto&) { return x[0]; })),
                    InputError);
  }
}
