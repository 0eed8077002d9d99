#include "tanzen/search/run.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/search_loop.hpp"
#include "tanzen/search/trace_recorder.hpp"

#include "run_outcome.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::int64_t most_idle_iterations = 100'000;
constexpr const char* stopped_by_user = "stopped by its user";

RandomStream stream_for(std::string_view purpose, const Problem& problem, const RunOptions& options) {
  return RandomStream(options.seed, {purpose, problem.name(), options.repeat});
}

/// With the region around where the run begins, if nothing else says where it is.
Problem begun_at(const Problem& problem, const RunOptions& options) {
  if (!options.start || problem.start() || problem.has_region()) return problem;
  return options.start->vector().size() == problem.dimension() ? problem.start(*options.start) : problem;
}

double best_value_of(const Problem& problem) {
  if (const auto best = problem.best_value()) return *best;
  throw ProblemError(fmt::format("a gap needs a problem whose {} is known; that of {} is not",
                                 problem.objectives().size() > 1 ? "true front" : "best value", problem.name()));
}

void set_target(Incumbent& incumbent, const Problem& problem, const StopRules& rules) {
  const double sign = sign_of(problem.value_sense());
  if (const auto target = rules.target) {
    incumbent.set_target(sign * *target, fmt::format("the value reached the target {}", number_text(*target)));
  } else if (const auto gap = rules.gap) {
    const double best = best_value_of(problem);
    if (!(*gap >= 0)) throw InputError(fmt::format("a gap must be at least 0; found {}", number_text(*gap)));
    incumbent.set_target(sign * best + *gap, fmt::format("the gap is at most {}", number_text(*gap)));
  }
}

void set_milestones(Incumbent& incumbent, const Problem& problem, const std::vector<double>& gaps) {
  if (gaps.empty()) return;
  const double best = best_value_of(problem);
  if (!std::ranges::is_sorted(gaps, std::greater())) throw InputError("milestones must fall from one to the next");
  std::vector<double> values;
  for (const double gap : gaps) values.push_back(sign_of(problem.value_sense()) * best + gap);
  incumbent.set_milestones(std::move(values));
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
  double start_value = not_known;
  double start_violation = 0;
  std::unique_ptr<Evaluator> evaluate;
  TraceRecorder trace;
  std::optional<SearchLoop> loop;
  std::optional<RunEnded> ended;
  std::int64_t iterations = 0;
  std::int64_t told_evaluations = 0; ///< at the end of the last whole iteration
  std::int64_t idle_iterations = 0;  ///< in a row, that asked for no value
  std::optional<Vector> end_point;   ///< where the run stands, where that is not where its method does
  double value = not_known;          ///< to be minimized
  double gradient_norm = not_known;
  double kkt = not_known;
  double violation = 0;
  double seconds = 0;
  std::optional<std::chrono::steady_clock::time_point> deadline;
  bool has_limits; ///< bounds or constraints
  bool has_front;  ///< several objectives
  bool is_watched; ///< somebody may stop it, or looks on
  double sign;     ///< of the value's sense
  /// The last iteration's columns, where it got no row: its own if the run ends inside the next one.
  std::array<Iteration::Column, Iteration::most_columns> unrecorded;
  std::size_t unrecorded_count = 0;

  State(const Problem& of, const Method& by, const RunOptions& with)
      : problem(begun_at(of, with)), method(by), options(with), start(start_point(problem, with)),
        trace(with.trace, with.trace.points ? of.variable_names() : std::vector<std::string>()),
        has_limits(of.bounds().any() || !of.constraints().empty()), has_front(of.objectives().size() > 1),
        is_watched(with.asked_to_stop || with.observer || with.stop_when), sign(of.sign()) {
    options.start.reset(); // a copy that a long run need not carry
    problem.check_start(start);
    check_able(method, problem);
    check_rules(options.stop); // before anything is evaluated
    evaluate = std::make_unique<Evaluator>(problem, with.stop, with.derivative, with.team, with.asked_to_stop);
    deadline = evaluate->ledger().deadline();
    set_target(evaluate->incumbent(), problem, options.stop);
    set_milestones(evaluate->incumbent(), problem, options.milestones);
    guarded([&] { begin(); });
  }

  /// Where the run stands.
  [[nodiscard]] const Vector& point() const { return end_point ? *end_point : loop ? loop->point() : start; }

  [[nodiscard]] RunEnded end_by_time() const {
    return {Status::time, fmt::format("the limit of {} s is reached", number_text(options.stop.seconds.value_or(0)))};
  }

  /// Does a part of the run; what ends it is noted.
  template <class Part>
  void guarded(Part&& part) {
    try {
      part();
    } catch (const RunEnded& end) {
      ended = end;
    } catch (const WaitEnded& end) {
      ended = end.at_deadline ? end_by_time() : RunEnded{Status::interrupted, stopped_by_user};
    } catch (const InputError&) {
      throw; // what the user asked for cannot be: not a matter of this run
    } catch (const std::exception& error) {
      ended = RunEnded{Status::failed, fmt::format("the method {} failed: {}", method.name(), error.what())};
    }
  }

  void begin() {
    trace.add_row(0);
    value = not_known;
    double row_violation = 0; // of the constraints alone
    try {
      if (problem.constraints().empty()) {
        value = (*evaluate)(start);
      } else {
        const Evaluation& at = evaluate->at(start);
        value = at.value;
        violation = row_violation = at.violation;
      }
    } catch (...) { // it is over before it began
      if (evaluate->incumbent().has_point()) value = evaluate->incumbent().value();
      note_start();
      throw;
    }
    note_start();
    loop.emplace(*evaluate, method,
                 Start{start, value, stream_for("method", problem, options).child({method.name()}), row_violation},
                 options.stop);
    if (is_watched) observe(nullptr);
  }

  /// The value where the run stands as its user reads it: of several objectives what the front covers by now.
  [[nodiscard]] double told(double standing) const {
    return has_front ? evaluate->incumbent().covered() : sign * standing;
  }

  void note_start() {
    start_value = told(value);
    start_violation = violation = std::max(violation, problem.bounds().violation(start));
    if (std::isinf(start_value)) start_value = not_known;
    told_evaluations = evaluate->ledger().evaluations();
    fill_row(trace.first_row(), 0);
  }

  void fill_row(std::span<double> row, double step) {
    const Incumbent& best = evaluate->incumbent();
    row[Trace::iteration] = static_cast<double>(iterations);
    for (std::size_t k = 0; k < all_spent.size(); ++k)
      row[Trace::evaluations + k] = static_cast<double>(evaluate->counts()[all_spent[k]]);
    row[Trace::seconds] = evaluate->ledger().seconds();
    row[Trace::value] = told(value);
    row[Trace::best_value] = has_front || best.is_feasible() ? told(best.value()) : not_known;
    row[Trace::gradient_norm] = gradient_norm;
    row[Trace::step_norm] = step;
    row[Trace::violation] = has_limits ? violation : 0;
    row[Trace::kkt] = kkt;
    if (trace.table().has_points()) std::copy(point().begin(), point().end(), row.end() - point().size());
  }

  [[nodiscard]] Progress progress(const Iteration* details) const {
    const Incumbent& best = evaluate->incumbent();
    return {iterations, evaluate->counts(), point(), told(value), told(best.has_point() ? best.value() : not_known),
            details};
  }

  void observe(const Iteration* details) {
    if (options.asked_to_stop && options.asked_to_stop()) throw RunEnded{Status::interrupted, stopped_by_user};
    if (!options.observer && !options.stop_when) return;
    const Progress now = progress(details);
    const auto asked = [&](const char* what, auto&& ask) {
      try {
        return ask(now);
      } catch (const std::exception& error) {
        throw RunEnded{Status::failed, fmt::format("{} failed: {}", what, error.what())};
      }
    };
    if (options.observer && asked("the observer", options.observer) == Watch::stop)
      throw RunEnded{Status::interrupted, "stopped by its observer"};
    if (!options.stop_when) return;
    if (auto reason = asked("the stop test", options.stop_when)) throw RunEnded{Status::own, std::move(*reason)};
  }

  void iterate() {
    const bool goes_on = loop->step();
    if (!loop->has_iteration()) throw RunEnded(*loop->ended());
    ++iterations;
    const Iteration& now = loop->iteration();
    value = now.value();
    gradient_norm = now.gradient_norm();
    kkt = now.kkt();
    if (has_limits) note_violation(now);
    note_idle();
    if (iterations == 1) trace.first_row()[Trace::gradient_norm] = evaluate->start_gradient_norm();
    note_iteration(now);
    if (now.population() != nullptr &&
        (now.population()->rows() != point().size() || now.population()->cols() != now.population_values()->size()))
      throw std::logic_error(fmt::format("it told a population of {} by {} with {} values", now.population()->rows(),
                                         now.population()->cols(), now.population_values()->size()));
    if (options.trace.most_populations > 0 && now.population() != nullptr)
      trace.note_population(iterations, *now.population(), *now.population_values(), sign);
    if (is_watched) observe(&now);
    if (!goes_on) throw RunEnded(*loop->ended());
    // A method that asks for no value meets no limit of its own.
    if (deadline && std::chrono::steady_clock::now() >= *deadline) throw end_by_time();
  }

  /// What asks for nothing meets no limit.
  void note_idle() {
    const std::int64_t evaluations = evaluate->ledger().evaluations();
    idle_iterations = evaluations == told_evaluations ? idle_iterations + 1 : 0;
    told_evaluations = evaluations;
    if (idle_iterations >= most_idle_iterations)
      throw RunEnded{Status::iterations,
                     fmt::format("{} iterations in a row have asked for no value", most_idle_iterations)};
  }

  void note_violation(const Iteration& now) {
    violation = problem.bounds().any() ? problem.bounds().violation(point()) : 0;
    if (problem.constraints().empty()) return;
    // Of a method that does not tell, the incumbent knows it where the method stands on it.
    const Incumbent& best = evaluate->incumbent();
    double told = now.violation();
    if (std::isnan(told) && best.has_point() && point() == best.point()) told = best.violation();
    violation = std::max(violation, std::isnan(told) ? 0 : told);
    if (std::isnan(told)) violation = not_known;
  }

  void note_iteration(const Iteration& now) {
    if (trace.keeps(iterations)) {
      write_row(now.columns(), loop->step_norm());
      unrecorded_count = 0;
      return;
    }
    unrecorded_count = now.columns().size();
    for (std::size_t k = 0; k < unrecorded_count; ++k) unrecorded[k] = now.columns()[k];
  }

  void write_row(std::span<const Iteration::Column> columns, double step) {
    // Columns that are new widen the table, so they come before the row is filled.
    std::array<std::size_t, Iteration::most_columns> places;
    for (std::size_t k = 0; k < columns.size(); ++k) places[k] = trace.own_column(columns[k].name, k);
    const std::span<double> row = trace.add_row(iterations);
    fill_row(row, step);
    for (std::size_t k = 0; k < columns.size(); ++k) row[Trace::fixed_columns + places[k]] = columns[k].value;
  }

  /// The last iteration has a row in any case. Where the end came inside one, a row tells what is known of it.
  void note_end(bool is_cut) {
    const auto last_kept = trace.table().at(trace.table().rows() - 1, Trace::iteration);
    if (last_kept < static_cast<double>(iterations) && !is_cut)
      write_row(std::span(unrecorded).first(unrecorded_count), loop->step_norm());
    if (is_cut && evaluate->ledger().evaluations() > told_evaluations) {
      ++iterations;
      gradient_norm = kkt = not_known;
      const Incumbent& best = evaluate->incumbent();
      if (best.has_point() && ended->status == Status::target) {
        end_point = best.point();
        value = best.value();
        violation = best.violation();
      }
      fill_row(trace.add_row(iterations), not_known);
    } else if (is_cut && last_kept < static_cast<double>(iterations)) {
      write_row(std::span(unrecorded).first(unrecorded_count), loop->step_norm());
    }
    seconds = evaluate->ledger().seconds();
  }

  void step() {
    const std::int64_t before = iterations;
    guarded([&] { iterate(); });
    if (ended) note_end(iterations == before);
  }

  [[nodiscard]] RunEnd end_from(Vector from, Vector last) const {
    return {.ended = ended.value_or(RunEnded{Status::interrupted, "not run to its end"}),
            .start = std::move(from),
            .start_value = start_value,
            .last_point = std::move(last),
            .last_value = value,
            .last_violation = violation,
            .gradient_norm = gradient_norm,
            .kkt = kkt,
            .iterations = iterations,
            .seconds = ended ? seconds : evaluate->ledger().seconds()};
  }

  /// So far; the run goes on.
  [[nodiscard]] Outcome outcome_now() const {
    Outcome result = outcome_of(problem, method, options, *evaluate, end_from(start, point()));
    check_outcome(problem, options, result);
    result.trace = TraceRecorder(trace).finish();
    return result;
  }

  /// At the end: a long run's vectors are handed on, not copied, and its memory is free before its point is checked.
  Outcome outcome() {
    Vector last = end_point ? std::move(*end_point) : loop ? loop->take_point() : start;
    loop.reset();
    Outcome result = outcome_of(problem, method, options, *evaluate, end_from(std::move(start), std::move(last)));
    evaluate.reset();
    check_outcome(problem, options, result);
    result.trace = std::move(trace).finish();
    return result;
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
  return state_->point();
}
const Trace& Run::trace() const {
  return state_->trace.table();
}
Progress Run::progress() const {
  return state_->progress(state_->loop && state_->loop->has_iteration() ? &state_->loop->iteration() : nullptr);
}
Outcome Run::outcome() const {
  return state_->outcome_now();
}
Outcome Run::finish() && {
  Outcome outcome = state_->outcome();
  if (!state_->ended) state_->ended = RunEnded{Status::interrupted, "finished"}; // a step more does nothing
  return outcome;
}

Outcome run(const Problem& problem, const Method& method, const RunOptions& options) {
  Run under_way(problem, method, options);
  while (under_way.step()) {
  }
  return std::move(under_way).finish();
}

Method as_it_stood(const Method& method, const Outcome& outcome) {
  Method stood = method;
  const auto columns = outcome.trace.column_names();
  for (const Method::SettingRow& setting : method.settings()) {
    const auto found = std::ranges::find(columns, setting.name);
    if (found == columns.end() || outcome.trace.rows() == 0) continue;
    const double last = outcome.trace.at(outcome.trace.rows() - 1, static_cast<std::size_t>(found - columns.begin()));
    if (std::isfinite(last)) stood = stood.with(setting.name, last);
  }
  return stood.labelled(method.label());
}

} // namespace tanzen
