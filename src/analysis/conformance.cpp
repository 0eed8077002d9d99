#include "tanzen/analysis/conformance.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <span>

namespace tanzen {
namespace {

/// Runs one method on what could break it.
class Examiner {
 public:
  Examiner(const Method& method, std::uint64_t seed) : method_(method), seed_(seed) {}

  ConformanceReport examine() {
    bounds();
    limits();
    repeats();
    holes();
    plateaus();
    dimension(1);
    dimension(100);
    columns();
    told_values();
    constant();
    claims();
    return {method_.label(), std::move(checks_)};
  }

 private:
  using Check = ConformanceCheck;

  /// Notes a check whose body says what is wrong, or nothing.
  template <class Body>
  void check(std::string name, Body&& body) {
    Check check{.name = std::move(name), .detail = {}};
    body(check);
    checks_.push_back(std::move(check));
  }
  static void fail(Check& check, std::string detail) {
    if (check.passed) check.detail = std::move(detail); // the first thing wrong is told
    check.passed = false;
  }
  static void skip(Check& check, std::string why) {
    check.applies = false;
    check.detail = std::move(why);
  }

  [[nodiscard]] bool is_for_fronts() const { return method_.card().able.fronts; }

  /// A problem of the kind that the method is for: of a value, the square of one residual; or two objectives.
  [[nodiscard]] Problem suited(const Problem& problem) const {
    const Abilities& able = method_.card().able;
    if (!able.residuals && !able.fronts) return problem;
    const auto function = problem.bundle();
    const auto parts = [function, able](const Vector& x, Vector& values) {
      const double value = function->worker()->value(x);
      values[0] = able.residuals ? std::sqrt(value) : value;
      if (able.fronts) values[1] = x.sum();
    };
    std::vector<Objective> objectives(able.fronts ? 2 : 0);
    Problem made = Problem::from_bundle(make_opaque_function(problem.dimension(), able.fronts ? 2 : 1, parts),
                                        std::move(objectives), {}, able.residuals ? 1 : 0)
                       .named(problem.name())
                       .bounds(problem.bounds().lower(), problem.bounds().upper());
    return problem.start() ? made.start(*problem.start()) : made;
  }

  [[nodiscard]] Index variables(Index wanted) const { return std::min(wanted, method_.card().able.most_variables); }

  [[nodiscard]] RunOptions options(std::int64_t evaluations) const {
    return {.seed = seed_, .repeat = 1, .stop = {.evaluations = evaluations}};
  }

  /// A run that failed inside the method is a fault whatever else is asked.
  static bool is_sound(Check& check, const Outcome& outcome, std::string_view where) {
    // That there was no value is no fault of the method.
    const bool has_failed = outcome.status == Status::failed && !outcome.message.starts_with("no point had a value");
    if (has_failed) fail(check, fmt::format("{}: {}", where, outcome.message));
    return !has_failed;
  }

  void bounds() {
    check("keeps within bounds", [&](Check& check) {
      if (!method_.card().able.bounds) return skip(check, "its card says that it cannot");
      for (const Index n : {variables(1), variables(3)}) {
        Vector stray;
        const Vector lower = Vector::Constant(n, 0.1), upper = Vector::Constant(n, 0.7);
        const Box box{lower, upper};
        const Vector wanted = Vector{{0.05, 0.3, 0.9}}.head(n);
        const Problem fenced = Problem::black_box(n, [&](const Vector& x) {
                                 if (stray.size() == 0 && !box.contains(x)) stray = x;
                                 return (x - wanted).squaredNorm();
                               }).bounds(lower, upper);
        const Outcome outcome = run(suited(fenced), method_, options(2000));
        (void)is_sound(check, outcome, "within bounds");
        if (stray.size() > 0)
          fail(check, fmt::format("it asked for a value at {}, outside 0.1 to 0.7", point_text(stray, 17)));
      }
    });
  }

  /// An outcome must not claim what its own check contradicts, nor call a point a minimum that is not stationary.
  void claims() {
    check("claims nothing that its point contradicts", [&](Check& check) {
      for (const char* name : {"rosenbrock", "beale", "powell-singular", "ackley", "rastrigin"}) {
        const Problem problem = testbed::problem(name);
        if (problem.dimension() > method_.card().able.most_variables) continue;
        const Outcome outcome = run(suited(problem), method_, options(3000));
        if (!is_sound(check, outcome, name)) return;
        const bool is_contradicted = outcome.checked.verdict == PointCheck::Verdict::not_stationary;
        if (outcome.converged() && is_contradicted && outcome.status != Status::target)
          fail(check,
               fmt::format("on {} it says {} of a point that is {}", name, outcome.message, outcome.checked.how));
      }
    });
  }

  void limits() {
    check("keeps a limit to the evaluation", [&](Check& check) {
      for (const std::int64_t limit : {1, 2, 7, 100, 1001}) {
        std::int64_t calls = 0;
        const Problem counted = Problem::black_box(variables(3), [&](const Vector& x) {
          ++calls;
          return x.squaredNorm() + std::sin(5 * x[0]);
        });
        const Outcome outcome = run(suited(counted), method_, options(limit));
        if (!is_sound(check, outcome, "with a limit")) return;
        if (calls > limit) fail(check, fmt::format("{} evaluations where {} were allowed", calls, limit));
        if (calls != outcome.counts[Spent::evaluations])
          fail(check,
               fmt::format("{} evaluations were counted and {} made", outcome.counts[Spent::evaluations], calls));
      }
    });
  }

  void repeats() {
    check("repeats bit for bit by its seed", [&](Check& check) {
      const Problem problem = suited(testbed::problem("rastrigin", variables(3)));
      RunOptions with = options(1000);
      with.trace.points = true;
      const Outcome a = run(problem, method_, with), b = run(problem, method_, with);
      if (a.trace.rows() != b.trace.rows())
        return fail(check, fmt::format("{} iterations, then {}", a.iterations, b.iterations));
      for (std::size_t row = 0; row < a.trace.rows(); ++row) {
        for (std::size_t k = 0; k < a.trace.row(row).size(); ++k) {
          const double x = a.trace.at(row, k), y = b.trace.at(row, k);
          if (k == Trace::seconds || x == y || (std::isnan(x) && std::isnan(y))) continue;
          return fail(check, fmt::format("in row {} of the trace {} is {}, then {}", row, a.trace.column_names()[k],
                                         number_text(x), number_text(y)));
        }
      }
    });
  }

  void holes() {
    check("survives values that are missing", [&](Check& check) {
      const Index n = variables(2);
      const Problem holed = Problem::black_box(
          n, [](const Vector& x) { return x[0] * x.sum() < x[0] * x[0] ? not_known : x.squaredNorm(); });
      const Problem empty = Problem::black_box(n, [](const Vector&) { return not_known; });
      const Vector inside = Vector{{3, 2}}.head(n), outside = Vector{{3, -2}}.head(n);
      for (const Vector& start : {inside, outside}) {
        RunOptions with = options(2000);
        with.start = start;
        const Outcome outcome = run(suited(holed), method_, with);
        if (!is_sound(check, outcome, "where values are missing")) return;
        const double begun = holed.value(start);
        if (!is_for_fronts() && outcome.value > begun) fail(check, "it lost the best point");
      }
      (void)is_sound(check, run(suited(empty), method_, options(2000)), "where there is no value at all");
    });
  }

  void plateaus() {
    check("survives plateaus", [&](Check& check) {
      const Index n = variables(2);
      const Problem steps = Problem::black_box(n, [](const Vector& x) { return std::floor(x.norm()); });
      RunOptions with = options(3000);
      with.start = Vector(Vector{{3, 2}}.head(n));
      const Outcome outcome = run(suited(steps), method_, with);
      if (is_sound(check, outcome, "on steps") && !is_for_fronts() && outcome.value > steps.value(*with.start))
        fail(check, "it lost the best point");
    });
  }

  void dimension(Index n) {
    check(fmt::format("works in {}", counted(n, "variable")), [&](Check& check) {
      if (n > method_.card().able.most_variables)
        return skip(check, fmt::format("its card says at most {}", method_.card().able.most_variables));
      const Problem problem = testbed::problem("sphere", n);
      const Outcome outcome = run(suited(problem), method_, options(16 * n + 400));
      if (is_sound(check, outcome, "on a sphere") && !is_for_fronts() && !(outcome.value < outcome.start_value))
        fail(check, fmt::format("it found nothing better than its start in {} evaluations",
                                outcome.counts[Spent::evaluations]));
    });
  }

  void columns() {
    check("reports columns that are finite", [&](Check& check) {
      RunOptions with = options(3000);
      with.observer = [&](const Progress& progress) {
        if (progress.details == nullptr) return Watch::go_on;
        for (const auto& [name, value] : progress.details->columns()) {
          if (!std::isfinite(value))
            fail(check, fmt::format("{} is {} in iteration {}", name, value, progress.iteration));
        }
        name_columns(check, progress.details->columns());
        if (!progress.details->point().allFinite())
          fail(check, fmt::format("the point is not finite in iteration {}", progress.iteration));
        return check.passed ? Watch::go_on : Watch::stop;
      };
      const Problem problem = suited(Problem::from_function(variables(2), [](const auto& x) {
        Expr sum = 80;
        for (Index i = 0; i < x.size(); ++i) sum += 0.5 * (pow(x[i], 4) - 16 * pow(x[i], 2) + 5 * x[i]);
        return sum;
      }));
      (void)is_sound(check, run(problem, method_, with), "on a smooth function");
    });
  }

  /// Names that a table could not keep apart.
  static void name_columns(Check& check, std::span<const Iteration::Column> columns) {
    const auto fixed = Trace::fixed_names();
    for (std::size_t k = 0; k < columns.size(); ++k) {
      const std::string_view name = columns[k].name;
      const bool is_variable =
          name.size() > 1 && name[0] == 'x' && name.find_first_not_of("0123456789", 1) == std::string_view::npos;
      if (name.empty() || is_variable || std::ranges::find(fixed, name) != fixed.end())
        fail(check, fmt::format("a column of its own is called '{}', as one that every table has", name));
      for (std::size_t other = 0; other < k; ++other) {
        if (columns[other].name == name) fail(check, fmt::format("two columns are called '{}'", name));
      }
    }
  }

  /// What it says of its point is compared with what the problem says.
  void told_values() {
    check("tells the value of the point where it says it is", [&](Check& check) {
      if (is_for_fronts()) return skip(check, "several objectives have no one value");
      const Problem problem = suited(testbed::problem("sphere", variables(2)));
      RunOptions with = options(2000);
      with.observer = [&](const Progress& progress) {
        const double value = problem.value(progress.point);
        const bool is_same = std::abs(progress.value - value) <= 1e-9 * (1 + std::abs(value));
        if (!is_same)
          fail(check, fmt::format("in iteration {} it tells {} at {}, where the value is {}", progress.iteration,
                                  number_text(progress.value), point_text(progress.point), number_text(value)));
        return check.passed ? Watch::go_on : Watch::stop;
      };
      (void)is_sound(check, run(problem, method_, with), "on a sphere");
    });
  }

  void constant() {
    check("ends by itself on a constant function", [&](Check& check) {
      if (is_for_fronts()) return skip(check, "a front has no end");
      const Index n = variables(2);
      const Problem flat = Problem::from_function(n, [](const auto& x) { return 0 * x[0] + 3.0; });
      const Outcome outcome = run(suited(flat), method_, options(200'000));
      if (is_sound(check, outcome, "on a constant") && !outcome.converged())
        fail(check, fmt::format("after {} it had not ended: {}",
                                counted(outcome.counts[Spent::evaluations], "evaluation"), outcome.message));
    });
  }

  const Method& method_;
  std::uint64_t seed_;
  std::vector<Check> checks_;
};

} // namespace

bool ConformanceReport::passed() const {
  return std::ranges::all_of(checks, &ConformanceCheck::passed);
}

ConformanceReport check_method(const Method& method, std::uint64_t seed) {
  // The examination's problems are called, and have no formula that could be looked into.
  if (method.card().able.formula) {
    ConformanceCheck none{.name = "is examined on callables"};
    none.passed = true;
    none.applies = false;
    none.detail = "the method works on formulas alone";
    return {method.name(), {none}};
  }
  return Examiner(method, seed).examine();
}

std::string to_text(const ConformanceReport& report) {
  std::string text;
  for (const ConformanceCheck& check : report.checks) {
    const char* verdict = !check.applies ? "does not apply" : check.passed ? "passed" : "failed";
    text += fmt::format("  {:<14}  {}{}{}\n", verdict, check.name, check.detail.empty() ? "" : ": ", check.detail);
  }
  return text;
}

} // namespace tanzen
