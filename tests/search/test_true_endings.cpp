// `converged` is a statement about the point that is printed.
#include "tanzen/expression/formula.hpp"
#include "tanzen/expression/smoothness.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/problem/smoothness.hpp"
#include "tanzen/search/point_check.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/sanitized.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

using namespace tanzen;

namespace {

bool is_smooth_formula(const std::string& text) {
  return is_smooth(Problem::from_formula(text));
}

/// The largest slope in units of the value and the variables, without those that a bound holds (within the point's own
/// digits of it).
double relative_gradient(const Problem& problem, const Outcome& outcome) {
  const Vector gradient = problem.sign() * problem.gradient(outcome.point), sizes = problem.typical_sizes();
  double largest = 0;
  for (Index i = 0; i < gradient.size(); ++i) {
    const double x = outcome.point[i], size = std::max(std::abs(x), sizes[i]);
    const double room = gradient[i] > 0 ? x - problem.bounds().lower()[i] : problem.bounds().upper()[i] - x;
    largest = std::max(largest, std::abs(gradient[i]) * std::min(size, std::max(room, 0.0)));
  }
  return largest / std::max(std::abs(outcome.value), 1.0);
}

/// Methods of one value, without the slow ones.
std::vector<Method> methods_of_values() {
  std::vector<Method> methods;
  for (const Method& method : standard_methods().all()) {
    const Abilities& able = method.card().able;
    if (able.residuals || able.fronts || able.formula || method.card().family == "constrained" ||
        method.name() == "surrogate")
      continue;
    methods.push_back(method);
  }
  return methods;
}

} // namespace

TEST_SUITE("true endings") {
  TEST_CASE("the form of a formula shows whether it has kinks") {
    for (const char* text :
         {"x^2 + y^2", "sin(x)*cos(y)", "exp(-x^2)/(1 + y^2)", "log(1 + x^2)", "x^-2", "tanh(x) + atan(y)", "x^7 - 3*x",
          "2*x + 3", "log10(x) + log2(y)", "sinh(x) + cosh(y) + tan(x)"})
      CHECK(is_smooth_formula(text));
    for (const char* text :
         {"abs(x)", "min(x, y)", "max(x, 0)", "floor(x)", "if(x < 0, -x, x)", "sqrt(x^2 + y^2)", "hypot(x, y)", "x^1.5",
          "x^y", "cbrt(x)", "sign(x)*x", "round(x)", "x + abs(y - 1)", "atan2(y, x)", "acos(x)"})
      CHECK_FALSE(is_smooth_formula(text));
    // What does not count does not matter: 0*abs(x) is folded, and a term that nothing uses is not there.
    CHECK(is_smooth(testbed::problem("rosenbrock")));
    CHECK_FALSE(is_smooth(Problem::black_box(2, [](const Vector& x) { return x.squaredNorm(); })));
  }

  TEST_CASE("of a smooth function the gradient decides, however few values around are lower") {
    // Between the waves a value 1e-9 away is no lower than rounding, and the slope is 1e-3.
    const Problem ellipsoid = testbed::problem("ellipsoid", 2);
    const Vector near = Vector{{0, 1e-9}};
    const PointCheck check = check_point(ellipsoid, near, {.by_values = true});
    CHECK(check.relative_gradient > 1e-4);
    CHECK(check.verdict == PointCheck::Verdict::not_stationary);
    CHECK(check.how.starts_with("not stationary: relative gradient"));
  }

  TEST_CASE("a slope that is zero by convention alone, or beside a jump, is contradicted by values") {
    // At 0 the slopes of floor and of x^2 are zero, but the value falls by 1 from 5e-5 on.
    const Problem jump = Problem::from_formula("x^2 - floor(1 + x - 5e-5)");
    const PointCheck check = check_point(jump, Vector{{0}}, {.by_values = true});
    CHECK(check.relative_gradient == 0);
    CHECK(check.verdict == PointCheck::Verdict::not_stationary);
    CHECK(check.how.starts_with("no minimum: relative gradient 0, but"));
    // Where values agree with the slope it stays what is told.
    const PointCheck bowl =
        check_point(Problem::from_formula("x^2 + abs(y - 1)*y^2"), Vector{{0, 0}}, {.by_values = true});
    CHECK(bowl.verdict == PointCheck::Verdict::stationary);
    CHECK(bowl.how == "relative gradient 0");
    const Outcome outcome = run(testbed::problem("katsuura"), method("newton"), {.stop = {.evaluations = 5000}});
    CHECK_FALSE(outcome.converged());
  }

  TEST_CASE("of a kink the values around decide") {
    const Problem kink = Problem::from_formula("abs(x) + 2*abs(y - 1)");
    CHECK(check_point(kink, Vector{{0, 1}}, {.by_values = true}).verdict == PointCheck::Verdict::stationary);
    CHECK(check_point(kink, Vector{{0.5, 1}}, {.by_values = true}).verdict == PointCheck::Verdict::not_stationary);
  }

  TEST_CASE("where the digits of the point hold the slope, no point is nearer to the minimum") {
    // A curvature of 1e20 around 0.1, which is no double: the slope at the nearest one is far above any tolerance.
    const Problem steep = Problem::from_formula("1e20*(10*x - 1)^2");
    const PointCheck check = check_point(steep, Vector{{0.1}}, {.by_values = true});
    CHECK(check.verdict == PointCheck::Verdict::stationary);
    CHECK(check_point(steep, Vector{{0.1 + 1e-12}}, {.by_values = true}).verdict ==
          PointCheck::Verdict::not_stationary);
  }

  TEST_CASE("far out, where the distance of two numbers is longer than a wave, nothing is stationary") {
    const Problem waves = Problem::from_formula("sin(3*x)*cos(2*y)");
    for (const Vector& far : {Vector{{1.1e15, 3e14}}, Vector{{-7e15, 2.3e15}}}) {
      const PointCheck check = check_point(waves, far, {.by_values = true});
      CHECK(check.relative_gradient > 1e10);
      CHECK(check.verdict == PointCheck::Verdict::not_stationary);
    }
  }

  TEST_CASE("no run says converged of a point whose slope contradicts it: smooth functions, from their starts and at "
            "random") {
    const std::vector<std::string> functions = {
        "rosenbrock",      "beale",       "himmelblau",   "ellipsoid",  "cigar",          "tablet",
        "griewank-valley", "branin",      "booth",        "matyas",     "shubert",        "bird",
        "periodic",        "parsopoulos", "hansen-waves", "schaffer-2", "powell-singular"};
    std::int64_t runs = 0, converged = 0, wrong = 0;
    const std::uint64_t repeats = testing::is_sanitized ? 1 : 3;
    for (const Method& method : methods_of_values()) {
      for (const std::string& name : functions) {
        const Problem problem = testbed::problem(name);
        if (!is_smooth(problem) || why_not(method, problem)) continue;
        for (std::uint64_t repeat = 0; repeat < repeats; ++repeat) {
          const Outcome outcome = run(
              problem, method, {.seed = 5, .repeat = repeat, .stop = {.evaluations = 4000}, .trace = {.most_rows = 2}});
          ++runs;
          if (!outcome.converged() || outcome.status == Status::target) continue;
          ++converged;
          if (relative_gradient(problem, outcome) <= 1e-4) continue;
          ++wrong;
          MESSAGE(fmt::format("{} on {}, repeat {}: {}; {}", method.name(), name, repeat, outcome.message,
                              outcome.checked.how));
        }
      }
    }
    MESSAGE(fmt::format("{} runs, {} converged, {} of them contradicted", runs, converged, wrong));
    CHECK(runs > 500);
    CHECK(converged > runs / 3);
    CHECK(wrong == 0);
  }

  TEST_CASE("what was said of these runs once is said no more") {
    struct Row {
      const char *problem, *method;
    };
    // Points far from stationary, plateaus of noise, functions without a lower end.
    for (const Row& row :
         {Row{"osborne-1", "sr1"}, Row{"brown-badly-scaled", "quadratic-model"}, Row{"meyer", "truncated-newton"},
          Row{"meyer", "conjugate-gradient"}, Row{"meyer", "quadratic-model"}, Row{"meyer", "sr1"},
          Row{"rastrigin:dim=10,placement=1", "direct"}}) {
      CAPTURE(std::string(row.problem));
      CAPTURE(std::string(row.method));
      const Problem problem = testbed::parse_problem(row.problem);
      const Outcome outcome = run(problem, method(row.method), {.seed = 1, .stop = {.evaluations = 20000}});
      if (outcome.converged()) CHECK(relative_gradient(problem, outcome) <= 1e-4);
      if (relative_gradient(problem, outcome) > 1e-4) CHECK(outcome.checked.how.find("minimum") == std::string::npos);
    }
    for (const char* text : {"-x-y", "x^3 + y"}) {
      for (const char* name : {"nelder-mead", "powell", "cma-es", "bfgs"}) {
        const Outcome outcome =
            run(Problem::from_formula(text), method(name), {.seed = 2, .stop = {.evaluations = 50000}});
        CAPTURE(std::string(name));
        CHECK_FALSE(outcome.converged());
      }
    }
    for (const char* text : {"sqrt(-1 - x^2)", "log(-1 - x^2)"}) {
      const Outcome outcome =
          run(Problem::from_formula(text), method("cma-es"), {.start = {1}, .stop = {.evaluations = 3000}});
      CHECK_FALSE(outcome.converged());
      CHECK(std::isnan(outcome.value));
    }
  }
}
