// Methods of one's own: what goes wrong between them and the house is told, and never believed.
#include "tanzen/analysis/conformance.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <doctest/doctest.h>

#include <fmt/format.h>
#include <functional>
#include <sstream>

using namespace tanzen;

namespace {

/// Does something with the evaluator, then steps down the gradient.
struct Meddler {
  std::function<void(Evaluator&, const Vector&)> fault;
  Index told_length = 2;
  double told_more = 0;

  static MethodCard card() { return {.title = "does what it should not", .summary = "for tests"}; }
  void settings(Settings& /*list*/) {}
  Search search(Evaluator& evaluate, Start start) const {
    Vector x = start.point;
    for (;;) {
      if (fault) fault(evaluate, x);
      x -= 0.001 * evaluate.gradient(x);
      const double value = evaluate(x);
      Vector told = x.head(std::min<Index>(told_length, x.size()));
      if (told_length > x.size()) told = Vector::Zero(told_length);
      co_yield Iteration(told, value + told_more);
    }
  }
};

Outcome run_meddler(Meddler meddler) {
  return run(testbed::problem("rosenbrock"), Method("heavy-ball", std::move(meddler)), {.stop = {.iterations = 5}});
}

/// Counts up; its settings are of all kinds of numbers.
struct Numbers {
  int count = 3;
  unsigned small = 7;
  float part = 0.5F;
  std::size_t size = 9;

  void settings(Settings& list) {
    list.add("count", count).at_least(1).means("how many");
    list.add("small", small).means("a small one");
    list.add("part", part).between(0, 1).means("a part");
    list.add("size", size).means("a size");
  }
  Search search(Evaluator& evaluate, Start start) const {
    for (int k = 0; k < count; ++k) co_yield Iteration(start.point, evaluate(start.point)).column("part", part);
  }
};

struct BadColumns {
  void settings(Settings& /*list*/) {}
  Search search(Evaluator& evaluate, Start start) const {
    for (;;) co_yield Iteration(start.point, evaluate(start.point)).column("value", 1).column("x1", 2);
  }
};

struct TwiceTheSame {
  void settings(Settings& /*list*/) {}
  Search search(Evaluator& evaluate, Start start) const {
    for (;;) co_yield Iteration(start.point, evaluate(start.point)).column("step", 1).column("step", 2);
  }
};

ConformanceCheck check_named(const ConformanceReport& report, std::string_view name) {
  const auto found = std::ranges::find_if(report.checks, [&](const auto& each) { return each.name == name; });
  REQUIRE(found != report.checks.end());
  return *found;
}

} // namespace

TEST_SUITE("own methods") {
  TEST_CASE("points of a wrong length are refused by the evaluator, whatever is asked") {
    using Fault = std::function<void(Evaluator&, const Vector&)>;
    const Vector ten = Vector::Zero(10);
    Vector product, values;
    const std::vector<std::pair<const char*, Fault>> faults = {
        {"value", [&](Evaluator& e, const Vector&) { (void)e(ten); }},
        {"parts", [&](Evaluator& e, const Vector&) { (void)e.at(ten); }},
        {"gradient", [&](Evaluator& e, const Vector&) { (void)e.gradient(ten); }},
        {"both", [&](Evaluator& e, const Vector&) { (void)e.value_and_gradient(ten); }},
        {"Hessian", [&](Evaluator& e, const Vector&) { (void)e.hessian(ten); }},
        {"product", [&](Evaluator& e, const Vector& x) { e.hessian_times(ten, e.gradient(x), x, product); }},
        {"batch", [&](Evaluator& e, const Vector&) { e.values(Matrix::Zero(10, 3), values); }},
        {"batch of parts", [&](Evaluator& e, const Vector&) { (void)e.at(Matrix(Matrix::Zero(10, 3))); }},
        {"Jacobian", [&](Evaluator& e, const Vector&) { (void)e.jacobian(ten); }},
        {"weighted Hessian", [&](Evaluator& e, const Vector&) { (void)e.weighted_hessian(ten, Vector::Ones(1)); }},
        {"minimum", [&](Evaluator& e, const Vector&) { e.found_minimum(ten, 1); }}};
    for (const auto& [name, fault] : faults) {
      CAPTURE(name);
      const Outcome outcome = run_meddler({.fault = fault});
      CHECK(outcome.status == Status::failed);
      CHECK(outcome.message ==
            "the method heavy-ball failed: it asked for a point of 10 coordinates; rosenbrock has 2 variables");
    }
  }

  TEST_CASE("an iteration at a point of another length ends the run with the reason") {
    for (const Index length : {1, 5}) {
      const Outcome outcome = run_meddler({.fault = {}, .told_length = length});
      CHECK(outcome.status == Status::failed);
      CHECK(outcome.message.find(fmt::format("it stands at a point of {} coordinate", length)) != std::string::npos);
      CHECK(outcome.point.size() == 2);
    }
  }

  TEST_CASE("a population that does not fit its values or the problem ends the run") {
    struct Crowd {
      void settings(Settings& /*list*/) {}
      Search search(Evaluator& evaluate, Start start) const {
        const Matrix members = Matrix::Zero(2, 7);
        const Vector values = Vector::Zero(3);
        for (;;) co_yield Iteration(start.point, evaluate(start.point)).population(members, values);
      }
    };
    const Outcome outcome = run(testbed::problem("booth"), Method("crowd", Crowd{}), {.stop = {.iterations = 3}});
    CHECK(outcome.status == Status::failed);
    CHECK(outcome.message.find("a population of 2 by 7 with 3 values") != std::string::npos);
  }

  TEST_CASE("settings may be of any number's type, within what it holds") {
    const Method method("numbers", Numbers{});
    CHECK(method.settings()[0].value == "3");
    CHECK(method.settings()[2].value == "0.5");
    const Method changed = method.with("count", 5).with("part", 0.25).with("small", 8).with("size", 10);
    CHECK(run(testbed::problem("booth"), changed).iterations == 5);
    for (const auto& [name, value, says] :
         {std::tuple{"count", "1.5", "must be a whole number at least 1"}, std::tuple{"count", "1e12", "to 2147483647"},
          std::tuple{"count", "0", "at least 1"}, std::tuple{"small", "-1", "must be from 0 to"},
          std::tuple{"part", "2", "at most 1"}, std::tuple{"size", "x", "must be a whole number"}})
      CHECK_THROWS_WITH_AS((void)method.with(name, value), doctest::Contains(says), InputError);
  }

  TEST_CASE("the check of a method sees values that are not the point's, and columns that have a name already") {
    CHECK(check_named(check_method(Method("sound", Meddler{})), "tells the value of the point where it says it is")
              .passed);
    const auto told = check_named(check_method(Method("boaster", Meddler{.fault = {}, .told_more = -1})),
                                  "tells the value of the point where it says it is");
    CHECK_FALSE(told.passed);
    CHECK(told.detail.find("in iteration 1 it tells") != std::string::npos);
    const auto columns = check_named(check_method(Method("bad", BadColumns{})), "reports columns that are finite");
    CHECK_FALSE(columns.passed);
    CHECK(columns.detail.find("is called 'value'") != std::string::npos);
    const auto twice = check_named(check_method(Method("twice", TwiceTheSame{})), "reports columns that are finite");
    CHECK(twice.detail == "two columns are called 'step'");
  }
}

TEST_SUITE("runs from outside") {
  TEST_CASE("a run tells how far it is and what has come out, and goes on as if it had not been asked") {
    const Problem valley = testbed::problem("rosenbrock");
    const RunOptions options{.start = {-1.2, 1}, .trace = {.points = true}};
    Run asked(valley, method("bfgs"), options), alone(valley, method("bfgs"), options);
    while (asked.step()) {
      const Progress now = asked.progress();
      CHECK(now.iteration == asked.iterations());
      CHECK(now.point == asked.point());
      CHECK(now.details != nullptr);
      CHECK(now.counts[Spent::evaluations] > 0);
      const Outcome so_far = asked.outcome();
      CHECK(so_far.status == Status::interrupted);
      CHECK(so_far.value == now.best_value);
      CHECK(so_far.trace.rows() == static_cast<std::size_t>(now.iteration) + 1);
    }
    while (alone.step()) {
    }
    const Outcome looked = asked.outcome(), end = std::move(asked).finish(), other = std::move(alone).finish();
    CHECK(looked.status == end.status);
    CHECK(end.status == other.status);
    CHECK(end.point == other.point);
    CHECK(end.counts[Spent::evaluations] == other.counts[Spent::evaluations]);
    CHECK(looked.trace.rows() == end.trace.rows());
  }

  TEST_CASE("a start may be written as people write points") {
    const Problem bowl = Problem::from_formula("2*x^2 + 0.7*y^2");
    const Vector a = Vector::Ones(2);
    const Matrix starts = Matrix::Constant(2, 3, 1);
    for (const RunOptions& options :
         {RunOptions{.start = {1, 1}}, RunOptions{.start = Vector::Ones(2)}, RunOptions{.start = starts.col(1)},
          RunOptions{.start = 0.5 * (a + a)}, RunOptions{.start = std::vector<double>{1, 1}}})
      CHECK(run(bowl, method("bfgs"), options).start == a);
    CHECK(bowl.value(2 * a) == doctest::Approx(10.8));
    CHECK(bowl.gradient(starts.col(0)) == Vector{{4, 1.4}});
    CHECK(bowl.region(-3, 2).region().lower == Vector{{-3, -3}});
    CHECK(bowl.bounds(0, 2).bounds().upper() == Vector{{2, 2}});
  }

  TEST_CASE("observers may return nothing, or say stop") {
    std::int64_t seen = 0;
    RunOptions options{.stop = {.iterations = 4, .gradient_tolerance = {}},
                       .observer = [&](const Progress& progress) { seen = progress.iteration; }};
    CHECK(run(testbed::problem("booth"), method("gradient-descent"), options).iterations == 4);
    CHECK(seen == 4);
    options.observer = [](const Progress& progress) { return progress.iteration == 2 ? Watch::stop : Watch::go_on; };
    CHECK(run(testbed::problem("booth"), method("gradient-descent"), options).status == Status::interrupted);
  }

  TEST_CASE("a test of one's own ends a run with its reason, and counts as what it is") {
    const auto near = [](const Progress& progress) -> std::optional<std::string> {
      if (progress.best_value > 1e-3) return std::nullopt;
      return "good enough for the glaze";
    };
    const Outcome outcome =
        run(testbed::problem("rosenbrock"), method("nelder-mead"), {.start = {-1.2, 1}, .stop_when = near});
    CHECK(outcome.status == Status::own);
    CHECK(status_word(outcome.status) == "own");
    CHECK(outcome.message == "good enough for the glaze");
    CHECK(outcome.value <= 1e-3);
    CHECK(outcome.converged() == (outcome.checked.verdict != PointCheck::Verdict::not_stationary));
    const Outcome failed =
        run(testbed::problem("booth"), method("nelder-mead"),
            {.stop_when = [](const Progress&) -> std::optional<std::string> { throw std::runtime_error("no"); }});
    CHECK(failed.status == Status::failed);
    CHECK(failed.message == "the stop test failed: no");
  }

  TEST_CASE("a run that its user wants to stop stops after the iteration") {
    int asked = 0;
    const Outcome outcome =
        run(testbed::problem("rosenbrock"), method("gradient-descent"), {.asked_to_stop = [&] { return ++asked > 3; }});
    CHECK(outcome.status == Status::interrupted);
    CHECK(outcome.message == "stopped by its user");
    CHECK(outcome.iterations == 3);
  }

  TEST_CASE("a method goes on from where an earlier run left it") {
    const Problem valley = testbed::problem("rosenbrock");
    const Method newton = method("newton-trust-region");
    const Outcome whole = run(valley, newton, {.start = {-1.2, 1}});
    const Outcome first = run(valley, newton, {.start = {-1.2, 1}, .stop = {.iterations = whole.iterations / 2}});
    const Outcome second = run(valley, as_it_stood(newton, first), {.start = first.last_point});
    CHECK(second.converged());
    CHECK(first.iterations + second.iterations <= whole.iterations + 1);
    CHECK(second.value == doctest::Approx(whole.value).epsilon(1e-6));
    // A setting that the method tells as a column is as it was at the end.
    const Outcome cooled = run(valley, method("nelder-mead"), {.start = {-1.2, 1}, .stop = {.iterations = 10}});
    CHECK(as_it_stood(method("nelder-mead"), cooled).label() == "nelder-mead");
  }

  TEST_CASE("what is printed of a status, a problem and an outcome reads the same both ways") {
    const Problem bowl = Problem::from_formula("x^2 + y^2").named("bowl");
    const Outcome outcome = run(bowl, method("bfgs"), {.start = {1, 2}});
    std::ostringstream out;
    out << Status::gradient << "; " << bowl << "; " << outcome;
    CHECK(out.str() == fmt::format("{}; {}; {}", Status::gradient, bowl, outcome));
    CHECK(out.str().starts_with("gradient; bowl, 2 variables, minimize; "));
  }
}
