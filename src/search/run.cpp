#include "tanzen/search/run.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/sampling.hpp"

#include "tanzen/search/stop_checker.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

RandomStream stream_for(std::string_view purpose, const Problem& problem, const RunOptions& options) {
  return RandomStream(options.seed, {purpose, problem.name(), options.repeat});
}

} // namespace

Vector start_point(const Problem& problem, const RunOptions& options) {
  if (options.start) return options.start->vector();
  if (problem.start() && options.repeat == 0) return *problem.start();
  return uniform_points(problem.sampling_box(), 1, stream_for("start", problem, options)).col(0);
}

struct Run::State {
  Problem problem;
  Method method;
  RunOptions options;
  Vector start;
  double start_value = unknown;
  Evaluator evaluate;
  StopChecker checker;
  Trace trace;
  std::optional<Search> search;
  std::optional<RunEnded> ended;
  std::int64_t iterations = 0;
  Vector point;
  double value = unknown; ///< to be minimized
  double gradient_norm = unknown;
  double step_norm = 0;
  double seconds = 0;
  bool has_bounds;

  State(const Problem& of, const Method& by, const RunOptions& with)
      : problem(of), method(by), options(with), start(start_point(of, with)),
        evaluate(of, with.stop, with.derivative, with.team), checker(with.stop),
        trace(with.trace, with.trace.points ? of.variable_names() : std::vector<std::string>()),
        has_bounds(of.bounds().any()) {
    options.start.reset(); // a copy that a long run need not carry
    problem.check_start(start);
    check_dimension();
    check_constraints();
    set_target();
    set_milestones();
    point = start;
    guarded([&] { begin(); });
  }

  void check_dimension() const {
    const Index most = method.card().most_variables;
    if (problem.dimension() <= most) return;
    throw ProblemError(fmt::format("{} works in {}, and {} has {}", method.name(),
                                   most == 1 ? "one variable" : fmt::format("at most {} variables", most),
                                   problem.name(), problem.dimension()));
  }

  /// No method of this version can do more than keep bounds.
  void check_constraints() const {
    if (problem.constraints().empty() && problem.objectives().size() == 1) return;
    const char* what = problem.constraints().empty() ? "several objectives" : "constraints";
    throw ProblemError(fmt::format("{} cannot handle {}, and {} has them", method.name(), what, problem.name()));
  }

  void set_target() {
    const double sign = problem.sign();
    if (const auto target = options.stop.target) {
      evaluate.set_target(sign * *target, fmt::format("the value reached the target {}", number_text(*target)));
    } else if (const auto gap = options.stop.gap) {
      const auto best = problem.best_known();
      if (!best)
        throw ProblemError(
            fmt::format("a gap needs a problem whose best value is known; that of {} is not", problem.name()));
      if (!(*gap >= 0)) throw InputError(fmt::format("a gap must be at least 0; found {}", number_text(*gap)));
      evaluate.set_target(sign * *best + *gap, fmt::format("the gap is at most {}", number_text(*gap)));
    }
  }

  void set_milestones() {
    if (options.milestones.empty()) return;
    const auto best = problem.best_known();
    if (!best)
      throw ProblemError(fmt::format("milestones are gaps, and the best value of {} is not known", problem.name()));
    if (!std::ranges::is_sorted(options.milestones, std::greater()))
      throw InputError("milestones must fall from one to the next");
    std::vector<double> values;
    for (const double gap : options.milestones) values.push_back(problem.sign() * *best + gap);
    evaluate.set_milestones(std::move(values));
  }

  /// Does a part of the run; what ends it is noted.
  template <class Part>
  void guarded(Part&& part) {
    try {
      part();
    } catch (const RunEnded& end) {
      ended = end;
    } catch (const InputError&) {
      throw; // what the user asked for cannot be: not a matter of this run
    } catch (const std::exception& error) {
      ended = RunEnded{Status::failed, fmt::format("the method {} failed: {}", method.name(), error.what())};
    }
  }

  void begin() {
    trace.add_row(0);
    value = unknown;
    try {
      value = evaluate(start);
    } catch (const RunEnded&) {
      if (evaluate.has_best()) value = evaluate.best_value();
      note_start();
      throw;
    }
    note_start();
    search.emplace(method.search(
        evaluate,
        {.point = start, .value = value, .random = stream_for("method", problem, options).child({method.name()})}));
    observe(nullptr);
  }

  void note_start() {
    start_value = problem.sign() * value;
    if (std::isinf(start_value)) start_value = unknown;
    checker.begin(value);
    fill_row(trace.last_row(), unknown, 0);
  }

  void fill_row(std::span<double> row, double gradient, double step) {
    const double sign = problem.sign();
    const Counts& counts = evaluate.counts();
    row[Trace::iteration] = static_cast<double>(iterations);
    row[Trace::evaluations] = static_cast<double>(counts.evaluations);
    row[Trace::gradients] = static_cast<double>(counts.gradients);
    row[Trace::hessians] = static_cast<double>(counts.hessians);
    row[Trace::seconds] = evaluate.seconds();
    row[Trace::value] = sign * value;
    row[Trace::best_value] = evaluate.has_best() ? sign * evaluate.best_value() : unknown;
    row[Trace::gradient_norm] = gradient;
    row[Trace::step_norm] = step;
    row[Trace::violation] = has_bounds ? problem.bounds().violation(point) : 0;
    if (trace.has_points()) std::copy(point.begin(), point.end(), row.end() - point.size());
  }

  void observe(const Iteration* details) {
    if (!options.observer) return;
    const double best = evaluate.has_best() ? evaluate.best_value() : unknown;
    const Progress progress{iterations, evaluate.counts(), point, problem.sign() * value, problem.sign() * best,
                            details};
    if (options.observer(progress) == Watch::stop) throw RunEnded{Status::interrupted, "stopped by its observer"};
  }

  void iterate() {
    if (!search->next()) throw RunEnded{Status::method, "the method has ended"};
    ++iterations;
    const Iteration& now = search->iteration();
    const double step = (now.point() - point).norm();
    point = now.point();
    value = now.value();
    gradient_norm = now.gradient_norm();
    if (iterations == 1) trace.first_row()[Trace::gradient_norm] = evaluate.start_gradient_norm();
    step_norm = step;
    if (trace.keeps(iterations)) note_iteration(now);
    if (options.trace.most_populations > 0 && now.population() != nullptr)
      trace.note_population(iterations, *now.population(), *now.population_values(), problem.sign());
    observe(&now);
    if (!now.finished().empty()) throw RunEnded{Status::method, std::string(now.finished())};
    if (auto end = checker.check(iterations, point, value, gradient_norm, step)) throw std::move(*end);
  }

  void note_iteration(const Iteration& now) {
    // Columns that are new widen the table, so they come before the row is filled.
    std::array<std::size_t, Iteration::most_columns> places;
    for (std::size_t k = 0; k < now.columns().size(); ++k) places[k] = trace.own_column(now.columns()[k].name, k);
    const std::span<double> row = trace.add_row(iterations);
    fill_row(row, now.gradient_norm(), step_norm);
    for (std::size_t k = 0; k < now.columns().size(); ++k) {
      row[Trace::fixed_columns + places[k]] = now.columns()[k].value;
    }
  }

  /// The last iteration has a row in any case. Where the end came inside one, the row tells what is known of it.
  void note_end(bool is_cut) {
    const double noted = trace.last_row()[Trace::evaluations];
    if (is_cut && static_cast<double>(evaluate.counts().evaluations) > noted) {
      ++iterations;
      if (evaluate.has_best() && ended->status == Status::target) {
        point = evaluate.best_point();
        value = evaluate.best_value();
      }
      fill_row(trace.add_row(iterations), unknown, unknown);
    } else if (!is_cut && trace.last_row()[Trace::iteration] < static_cast<double>(iterations)) {
      note_iteration(search->iteration());
    }
    seconds = evaluate.seconds();
  }

  void step() {
    const std::int64_t before = iterations;
    guarded([&] { iterate(); });
    if (ended) note_end(iterations == before);
  }

  Outcome outcome() {
    const double sign = problem.sign();
    search.reset(); // its memory is not needed any more
    Outcome result;
    result.problem = problem.name();
    result.method = method.name();
    result.method_label = method.label();
    result.settings = method.settings();
    result.variable_names = problem.variable_names();
    result.sense = problem.sense();
    result.seed = options.seed;
    result.status = ended ? ended->status : Status::interrupted;
    result.message = ended ? ended->message : "not run to its end";
    result.start = start;
    result.start_value = start_value;
    result.point = evaluate.has_best() ? evaluate.best_point() : start;
    result.value = evaluate.has_best() ? sign * evaluate.best_value() : unknown;
    result.last_point = point;
    result.last_value = sign * value;
    result.gradient_norm = gradient_norm;
    result.iterations = iterations;
    result.counts = evaluate.counts();
    result.evaluations_to_best = evaluate.best_at();
    result.milestones = evaluate.milestone_counts();
    result.events = evaluate.events();
    result.minima = evaluate.minima().all();
    for (FoundMinimum& minimum : result.minima) minimum.value *= sign;
    std::ranges::stable_sort(result.minima,
                             [&](const auto& a, const auto& b) { return sign * a.value < sign * b.value; });
    result.seconds = ended ? seconds : evaluate.seconds();
    result.violation = has_bounds ? problem.bounds().violation(result.point) : 0;
    note_known(result);
    result.trace = std::move(trace);
    return result;
  }

  void note_known(Outcome& result) const {
    result.best_known = problem.best_known();
    if (result.best_known && !std::isnan(result.value)) {
      result.gap = problem.sign() * (result.value - *result.best_known);
    }
    for (const KnownMinimum& minimum : problem.known_minima()) {
      if (!minimum.global) continue;
      ++result.known_points;
      const double away = (result.point - minimum.point).norm();
      if (!result.distance || away < *result.distance) result.distance = away;
    }
  }
};

Run::Run(const Problem& problem, const Method& method, const RunOptions& options)
    : state_(std::make_unique<State>(problem, method, options)) {}
Run::Run(Run&&) noexcept = default;
Run& Run::operator=(Run&&) noexcept = default;
Run::~Run() = default;

bool Run::step() {
  if (state_->ended) return false;
  state_->step();
  return !state_->ended;
}

bool Run::is_over() const {
  return state_->ended.has_value();
}
std::int64_t Run::iterations() const {
  return state_->iterations;
}
const Vector& Run::point() const {
  return state_->point;
}
const Trace& Run::trace() const {
  return state_->trace;
}
Outcome Run::outcome() {
  return state_->outcome();
}

Outcome run(const Problem& problem, const Method& method, const RunOptions& options) {
  Run under_way(problem, method, options);
  while (under_way.step()) {
  }
  return under_way.outcome();
}

} // namespace tanzen
