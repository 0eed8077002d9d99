#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <limits>
#include <stdexcept>
#include <thread>

using namespace tanzen;

namespace {

/// Moves along the first axis by a fixed step, evaluating several times an iteration.
struct Walker {
  double step = 1;
  Index values = 1;
  Index last = 1'000'000'000;
  bool throws = false;

  static MethodCard card() {
    MethodCard card;
    card.able.bounds = true; // so it says, for tests of what happens where one does not
    return card;
  }
  void settings(Settings& list) {
    list.add("step", step);
    list.add("values", values).at_least(1);
    list.add("last", last);
    list.add("throws", throws);
  }

  Search search(Evaluator& evaluate, Start start) const {
    Vector x = start.point;
    for (Index k = 1; k <= last; ++k) {
      if (throws && k == 3) throw std::runtime_error("lost its way");
      x[0] += step;
      double value = 0;
      for (Index i = 0; i < values; ++i) value = evaluate(x);
      co_yield Iteration(x, value).column("walked", static_cast<double>(k));
    }
  }
};

Method walker(const SettingValues& settings = {}) {
  return Method("walker", Walker{}).with(settings);
}

Problem line(const std::function<double(double)>& f) {
  return Problem::black_box(1, [f](const Vector& x) { return f(x[0]); }).named("line").start({0});
}

} // namespace

TEST_SUITE("run") {
  TEST_CASE("a limit on evaluations is kept to the evaluation, inside an iteration too") {
    std::int64_t called = 0;
    const Problem problem = line([&](double x) {
      ++called;
      return x;
    });
    for (const std::int64_t limit : {1, 2, 7, 8, 100}) {
      called = 0;
      const Outcome outcome = run(problem, walker({{"values", 7}}), {.stop = {.evaluations = limit}});
      CHECK(outcome.status == Status::evaluations);
      CHECK(outcome.counts[Spent::evaluations] == limit);
      CHECK(called == limit);
      CHECK(outcome.trace.at(outcome.trace.rows() - 1, Trace::evaluations) == static_cast<double>(limit));
    }
  }

  TEST_CASE("differences count the values they use, and no more than the limit") {
    const Problem problem = Problem::black_box(3, [](const Vector& x) { return x.squaredNorm(); }).start({1, 1, 1});
    const Method descent = method("gradient-descent", {{"step", 0.1}});
    const RunOptions forward{.stop = {.iterations = 2}, .derivative = DerivativeMode::forward};
    const RunOptions central{.stop = {.iterations = 2}, .derivative = DerivativeMode::central};
    CHECK(run(problem, descent, forward).counts[Spent::evaluations] == 1 + 4 + 2 * 4);
    CHECK(run(problem, descent, central).counts[Spent::evaluations] == 1 + 6 + 2 * 7);
    CHECK(run(problem, descent, {.stop = {.evaluations = 10}}).counts[Spent::evaluations] == 10);
    CHECK(run(problem, descent, central).counts[Spent::gradients] == 0);
    CHECK_THROWS_WITH_AS((void)run(problem, descent, {.derivative = DerivativeMode::exact}),
                         doctest::Contains("without an exact derivative"), ProblemError);
  }

  TEST_CASE("difference gradients are as near as their order allows") {
    const Problem exact = testbed::problem("rosenbrock");
    StopRules none;
    Evaluator reference(exact, none, DerivativeMode::exact), forward(exact, none, DerivativeMode::forward),
        central(exact, none, DerivativeMode::central);
    const Vector x{{-1.2, 1}};
    const Vector gradient = reference.gradient(x);
    CHECK((forward.gradient(x) - gradient).norm() < 1e-4 * gradient.norm());
    CHECK((central.gradient(x) - gradient).norm() < 1e-8 * gradient.norm());
    CHECK((central.hessian(x) - exact.hessian(x)).norm() < 1e-4 * exact.hessian(x).norm());
    CHECK((reference.hessian(x) - exact.hessian(x)).norm() == 0);
    CHECK(reference.counts()[Spent::hessians] == 1);
  }

  TEST_CASE("every status is reached in its own way") {
    const auto falling = line([](double x) { return -x; });
    const auto bowl = testbed::problem("sphere", 2).start({2.5, -1});
    const Method descent = method("gradient-descent", {{"step", 0.25}});
    CHECK(run(falling, walker(), {.stop = {.target = -10}}).status == Status::target);
    CHECK(run(bowl, descent, {.stop = {.gap = 1e-3}}).status == Status::target);
    CHECK(run(bowl, descent).status == Status::gradient);
    CHECK(run(bowl, descent, {.stop = {.gradient_tolerance = {}, .step_tolerance = 1e-6}}).status == Status::step);
    CHECK(run(bowl, descent, {.stop = {.gradient_tolerance = {}, .value_tolerance = 1e-9}}).status == Status::value);
    CHECK(run(falling, walker({{"last", 5}})).status == Status::method);
    CHECK(run(falling, walker(), {.stop = {.iterations = 4}}).status == Status::iterations);
    CHECK(run(falling, walker(), {.stop = {.evaluations = 4}}).status == Status::evaluations);
    CHECK(run(falling, walker(), {.stop = {.iterations = {}, .evaluations = {}, .seconds = 0.01}}).status ==
          Status::time);
    CHECK(run(bowl, method("gradient-descent", {{"step", 1.7}})).status == Status::diverged);
    CHECK(run(falling, walker({{"throws", true}})).status == Status::failed);
    CHECK(run(falling, walker(),
              {.observer = [](const Progress& p) { return p.iteration < 3 ? Watch::go_on : Watch::stop; }})
              .status == Status::interrupted);
  }

  TEST_CASE("status words are pinned, and the first five may count as converged") {
    const char* words[] = {"target", "gradient", "step",   "value",       "method",  "iterations", "evaluations",
                           "time",   "diverged", "failed", "interrupted", "stalled", "infeasible", "size"};
    for (std::size_t k = 0; k < std::size(words); ++k) {
      CHECK(status_word(static_cast<Status>(k)) == words[k]);
      CHECK(status_from_word(words[k]) == static_cast<Status>(k));
      CHECK(may_be_converged(static_cast<Status>(k)) == (k < 5));
    }
    CHECK_FALSE(status_from_word("done").has_value());
  }

  TEST_CASE("flipping between two points of one value is no convergence") {
    const Problem bowl = testbed::problem("sphere", 2).start({2.5, -1});
    const Outcome outcome =
        run(bowl, method("gradient-descent", {{"step", 1}}), {.stop = {.iterations = 200, .value_tolerance = 1e-6}});
    CHECK(outcome.status == Status::iterations);
    CHECK(outcome.value == 7.25);
  }

  TEST_CASE("no number on the way is stepped over, and the best point so far is kept") {
    const Problem holed = line([](double x) { return x == 5 ? not_known : x == 7 ? infinity : (x - 4) * (x - 4); });
    const Outcome outcome = run(holed, walker(), {.stop = {.iterations = 20}});
    CHECK(outcome.status == Status::iterations);
    CHECK(outcome.value == 0);
    CHECK(outcome.point[0] == 4);
    CHECK(outcome.events.outside_domain == 2);
  }

  TEST_CASE("no number that cannot be stepped back from is divergence") {
    const Problem edge = Problem::from_formula("sqrt(x) - x").start({1});
    const Outcome outcome = run(edge.maximized().start({0.5}), method("gradient-descent", {{"step", 5}}));
    CHECK(outcome.status == Status::diverged);
    CHECK_FALSE(std::isnan(outcome.value));
    const Outcome unbounded = run(line([](double x) { return x > 3 ? -infinity : -x; }), walker());
    CHECK(unbounded.status == Status::unbounded);
    CHECK(unbounded.value == -3);
  }

  TEST_CASE("a throwing objective ends the run as failed with the best point so far") {
    const Problem broken = line([](double x) {
      if (x > 3) throw std::runtime_error("the kiln is cold");
      return -x;
    });
    const Outcome outcome = run(broken, walker());
    CHECK(outcome.status == Status::failed);
    CHECK(outcome.message == "the objective failed at (4): the kiln is cold");
    CHECK(outcome.value == -3);
    const Outcome at_once = run(line([](double) -> double { throw std::runtime_error("never works"); }), walker());
    CHECK(at_once.status == Status::failed);
    CHECK(std::isnan(at_once.value));
    CHECK(at_once.trace.rows() == 1);
  }

  TEST_CASE("a start without a value is told, and a method may walk out of it") {
    const Problem holed = line([](double x) { return x < 2 ? not_known : x; });
    const Outcome outcome = run(holed, walker(), {.stop = {.iterations = 5}});
    CHECK(std::isnan(outcome.start_value));
    CHECK(outcome.value == 2);
  }

  TEST_CASE("a maximized problem is read in its own sense") {
    const Problem hill = Problem::from_formula("5 - (x - 1)^2").maximized().start({4}).known_minimum({1}, 5);
    const Outcome outcome = run(hill, method("gradient-descent", {{"step", 0.25}}));
    CHECK(outcome.converged());
    CHECK(outcome.start_value == -4);
    CHECK(outcome.value == doctest::Approx(5).epsilon(1e-12));
    CHECK(*outcome.gap >= 0);
    const auto values = outcome.trace.column("value");
    CHECK(std::ranges::is_sorted(values));
    CHECK(run(hill, method("gradient-descent"), {.stop = {.target = 4.5}}).status == Status::target);
  }

  TEST_CASE("only feasible points count as best") {
    const Problem fenced = line([](double x) { return -x; }).bounds(-10, 2.5);
    const Outcome outcome = run(fenced, walker(), {.stop = {.iterations = 6}});
    CHECK(outcome.point[0] == 2);
    CHECK(outcome.violation == 0);
    CHECK(outcome.events.outside_bounds == 4);
    CHECK(outcome.trace.column("violation").back() == 3.5);
  }

  TEST_CASE("stepping from outside does the same as running") {
    const Problem problem = testbed::problem("rosenbrock");
    const RunOptions options{.seed = 3, .stop = {.iterations = 25}};
    Run stepped(problem, method("nelder-mead"), options);
    std::int64_t steps = 0;
    while (stepped.step()) CHECK(stepped.iterations() == ++steps);
    CHECK(stepped.is_over());
    CHECK_FALSE(stepped.step());
    const Outcome by_steps = std::move(stepped).finish(), at_once = run(problem, method("nelder-mead"), options);
    CHECK(by_steps.iterations == 25);
    CHECK(by_steps.value == at_once.value);
    CHECK(by_steps.point == at_once.point);
    Run unfinished(problem, method("nelder-mead"), options);
    unfinished.step();
    CHECK(std::move(unfinished).finish().status == Status::interrupted);
  }

  TEST_CASE("an observer sees the start and every iteration") {
    std::vector<std::int64_t> seen;
    std::vector<double> values;
    const Observer observer = [&](const Progress& progress) {
      seen.push_back(progress.iteration);
      values.push_back(progress.value);
      CHECK((progress.details == nullptr) == (progress.iteration == 0));
      return Watch::go_on;
    };
    const Outcome outcome =
        run(line([](double x) { return x * x; }), walker(), {.stop = {.iterations = 3}, .observer = observer});
    CHECK(seen == std::vector<std::int64_t>{0, 1, 2, 3});
    CHECK(values == outcome.trace.column("value"));
  }

  TEST_CASE("starts are paired by seed and repeat, whatever the method") {
    const Problem problem = testbed::problem("rastrigin", 3);
    const RunOptions options{.seed = 5, .repeat = 2, .stop = {.evaluations = 50}};
    const Outcome a = run(problem, method("nelder-mead"), options),
                  b = run(problem, method("differential-evolution"), options);
    CHECK(a.start == b.start);
    CHECK(problem.region().contains(a.start));
    CHECK(run(problem, method("nelder-mead"), {.seed = 5, .repeat = 3, .stop = {.evaluations = 5}}).start != a.start);
    CHECK(run(testbed::problem("rosenbrock"), method("nelder-mead")).start == Vector{{-1.2, 1}});
  }

  TEST_CASE("a problem is shared between threads, and each run gives the same bits") {
    const Problem problem = testbed::problem("rastrigin", 4);
    const RunOptions options{.seed = 9, .repeat = 1, .stop = {.evaluations = 5000}};
    const Outcome alone = run(problem, method("differential-evolution"), options);
    std::vector<Outcome> together(4);
    {
      std::vector<std::jthread> threads;
      for (Outcome& outcome : together)
        threads.emplace_back([&] { outcome = run(problem, method("differential-evolution"), options); });
    }
    for (const Outcome& outcome : together) {
      CHECK(outcome.value == alone.value);
      CHECK(outcome.point == alone.point);
    }
  }

  TEST_CASE("rules and starts that cannot be are refused") {
    const Problem problem = testbed::problem("sphere", 2);
    CHECK_THROWS_WITH_AS((void)run(problem, walker(), {.start = Coordinates{1}}),
                         doctest::Contains("the start has 1 coordinate"), ProblemError);
    CHECK_THROWS_WITH_AS((void)run(problem.bounds({0, 0}, {1, 1}), walker(), {.start = Coordinates{2, 0}}),
                         doctest::Contains("outside the bounds"), ProblemError);
    CHECK_THROWS_WITH_AS((void)run(problem, walker(), {.stop = {.iterations = 0}}),
                         doctest::Contains("must be at least 1"), InputError);
    CHECK_THROWS_WITH_AS((void)run(problem, walker(), {.stop = {.value_tolerance = -1}}),
                         doctest::Contains("must be at least 0"), InputError);
    CHECK_THROWS_WITH_AS((void)run(Problem::from_formula("x"), walker(), {.stop = {.gap = 1}}),
                         doctest::Contains("best value is known"), ProblemError);
  }

  TEST_CASE("the outcome's text says why it stopped and what is known") {
    const Outcome outcome = run(testbed::problem("himmelblau"), method("nelder-mead"), {.start = Coordinates{0, 0}});
    const std::string text = fmt::format("{}", outcome);
    for (const char* part :
         {"converged", "the simplex has collapsed", "point         (3, 2)", "global minimum 0; 4 points have it"}) {
      CHECK(text.find(part) != std::string::npos);
    }
  }
}
