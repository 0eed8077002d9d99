#include "arguments.hpp"
#include "commands.hpp"
#include "interrupt.hpp"
#include "names.hpp"
#include "pictures.hpp"

#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/analysis/global_check.hpp"
#include "tanzen/analysis/preference.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/ends_figure.hpp"
#include "tanzen/figure/solve_figure.hpp"
#include "tanzen/files/front_file.hpp"
#include "tanzen/files/outcome_file.hpp"
#include "tanzen/files/population_file.hpp"
#include "tanzen/files/trace_file.hpp"
#include "tanzen/files/visit_file.hpp"
#include "tanzen/report/iteration_table.hpp"
#include "tanzen/report/minima_table.hpp"
#include "tanzen/report/table.hpp"
#include "tanzen/study/run_jobs.hpp"

#include <array>
#include <cmath>
#include <memory>

namespace tanzen::cli {
namespace {

/// Up to this many variables the points are kept for the picture and the hints, and shown in the table.
constexpr Index most_kept = 50, most_shown = 3;
constexpr std::size_t most_populations = 1000;

struct SolveOptions {
  std::string name;
  ProblemArguments problem;
  std::vector<std::string> methods;
  std::string from;
  std::uint64_t seed = 1;
  std::optional<std::int64_t> repeats;
  StopArguments stop;
  DerivativeMode derivative = DerivativeMode::automatic;
  std::optional<std::int64_t> every;
  std::string trace;
  PictureArguments pictures;
  std::string front, prefer;
  bool show_points = false;
  bool check_end = false;
  bool prove = false;
  std::optional<double> proof_seconds;
  bool all_minima = false;
  std::string population, visits;
  std::optional<std::int64_t> jobs;
  bool quiet = false;
  bool as_json = false;
};

int exit_code_of(const Outcome& outcome) {
  // A front is an answer; whether it is the whole one nobody knows.
  if (outcome.converged() || outcome.objectives.size() > 1) return 0;
  if (outcome.status == Status::failed) return 3;
  return outcome.status == Status::interrupted ? 130 : 1;
}

/// What is tried where no method is named, in this order.
constexpr std::array usual_methods = {"nelder-mead", "sequential-quadratic", "linear-model", "nondominated-sorting"};

class Solver {
 public:
  Solver(const Context& context, const SolveOptions& options)
      : context_(context), options_(options), problem_(options.problem.problem(context.additions, options.name)),
        method_(chosen_method()) {
    check_able(method_, problem_);
    if (!options.trace.empty()) check_trace_name(options.trace);
    options.pictures.check({{"--trace", options.trace},
                            {"--front", options.front},
                            {"--population", options.population},
                            {"--visits", options.visits}});
    if (!options.population.empty()) check_population_name(options.population);
    if (!options.visits.empty()) check_visits_name(options.visits);
    if (!options.front.empty()) {
      check_front_name(options.front);
      if (problem_.objectives().size() < 2)
        throw InputError(fmt::format("--front: {} has one objective, so it has no front", problem_.name()));
    }
    if (!options.prefer.empty()) {
      if (problem_.objectives().size() < 2)
        throw InputError(
            fmt::format("--prefer: {} has one objective, so there is nothing to choose between", problem_.name()));
      preference_ = Preference::parse(options.prefer, problem_.parts().objectives);
    }
    if (options.repeats && (!options.trace.empty() || options.pictures.asked_for() || !options.population.empty() ||
                            !options.visits.empty())) {
      throw InputError("--trace, --population, --visits, --figure and --report show one run; leave --repeats away");
    }
    if (options.repeats && options.prove) throw InputError("--prove looks at one run; leave --repeats away");
  }

  int solve() {
    if (options_.repeats) return solve_repeatedly();
    const InterruptGuard guard;
    const Outcome outcome = run(options_.visits.empty() ? problem_ : visits_.heard(problem_), method_, run_options(0));
    const Diagnosis diagnosis = diagnose(problem_, outcome);
    if (options_.as_json)
      context_.print("{}\n", outcome_to_json(outcome, diagnosis, choice_of(outcome), global_check_of(outcome)));
    else
      print(outcome, diagnosis);
    write_files(outcome);
    return exit_code_of(outcome);
  }

 private:
  Method chosen_method() const {
    if (options_.methods.size() > 1) throw InputError("solve runs one method; 'tanzen compare' takes several --with");
    if (!options_.methods.empty()) return context_.additions.methods.parse(options_.methods.front());
    for (const char* name : usual_methods) {
      Method usual = context_.additions.methods.find(name);
      if (!why_not(usual, problem_)) return usual;
    }
    return context_.additions.methods.find(usual_methods.front());
  }

  RunOptions run_options(std::uint64_t run_number) const {
    RunOptions options;
    options.seed = options_.seed + run_number;
    // Repeats differ by their starts too, so they do not take the problem's own.
    options.repeat = options_.repeats ? 1 : 0;
    if (!options_.from.empty()) options.start = parse_point(options_.from, problem_.variable_names(), "--from");
    options.stop = options_.stop.rules_for(problem_);
    options.derivative = options_.derivative;
    options.trace.points = options_.show_points || problem_.dimension() <= most_kept;
    options.asked_to_stop = InterruptGuard::is_asked;
    options.check_end = options_.check_end;
    options.team = thread_team(static_cast<std::size_t>(options_.jobs.value_or(1)));
    if (!options_.population.empty()) options.trace.most_populations = most_populations;
    return options;
  }

  void print_header(const Outcome& outcome) const {
    context_.print("\n  {}    {}\n", to_text(problem_), method_.label());
    const std::string value = std::isnan(outcome.start_value) ? "none" : short_number(outcome.start_value, 10);
    if (outcome.objectives.size() > 1)
      context_.print("  start {}\n\n", point_text(outcome.start));
    else
      context_.print("  start {}  value {}\n\n", point_text(outcome.start), value);
  }

  [[nodiscard]] std::optional<Choice> choice_of(const Outcome& outcome) const {
    if (!preference_ || outcome.front.empty()) return std::nullopt;
    return choose(outcome, *preference_);
  }

  void print(const Outcome& outcome, const Diagnosis& diagnosis) const {
    print_header(outcome);
    context_.print("{}", constant_note(problem_));
    const bool points = options_.show_points || problem_.dimension() <= most_shown;
    if (!options_.quiet) context_.print("{}\n", iteration_table(outcome.trace, options_.every, points, context_.width));
    context_.print("{}{}", to_text(outcome, checked_text(outcome, diagnosis)), to_text(diagnosis));
    if (const auto check = global_check_of(outcome)) context_.print("{}", to_text(*check));
    if (const auto choice = choice_of(outcome)) context_.print("{}", to_text(outcome, *choice));
    if (options_.all_minima) context_.print("\n{}", minima_table(problem_, outcome, context_.width));
  }

  /// Unless the run is a proof itself.
  [[nodiscard]] std::optional<GlobalCheck> global_check_of(const Outcome& outcome) const {
    if (!options_.prove || outcome.proof) return std::nullopt;
    RunOptions options{.seed = options_.seed};
    options.stop.seconds = options_.proof_seconds.value_or(30);
    options.asked_to_stop = InterruptGuard::is_asked;
    return check_global(problem_, outcome, context_.additions.methods.find("branch-and-bound"), options);
  }

  /// Data first: a picture may fail for reasons of its own.
  void write_files(Outcome outcome) const {
    if (!options_.trace.empty()) {
      write_trace(options_.trace, outcome);
      if (!options_.as_json) context_.print("{}", block_line("trace", options_.trace));
    }
    if (!options_.front.empty()) {
      write_front(options_.front, outcome);
      if (!options_.as_json) context_.print("{}", block_line("front", options_.front));
    }
    if (!options_.population.empty()) {
      write_populations(options_.population, outcome);
      if (!options_.as_json) context_.print("{}", block_line("population", options_.population));
    }
    if (!options_.visits.empty()) {
      write_visits(options_.visits, visits_, outcome);
      if (!options_.as_json) context_.print("{}", block_line("visits", options_.visits));
    }
    options_.pictures.write(
        context_, fmt::format("{} on {}", outcome.method_label, problem_.name()),
        [&] { return options_.all_minima ? minima_figure(problem_, outcome) : solve_figure(problem_, outcome); },
        options_.as_json);
  }

  int solve_repeatedly() const {
    const InterruptGuard guard;
    Table table;
    const bool is_front = problem_.objectives().size() > 1;
    for (const char* heading : {"seed", "status", "value", "evaluations", is_front ? "front" : "point"})
      table.column(heading);
    int code = 0;
    std::int64_t converged = 0, done = 0;
    for (; done < *options_.repeats && !InterruptGuard::is_asked(); ++done) {
      const Outcome outcome = run(problem_, method_, run_options(static_cast<std::uint64_t>(done)));
      converged += outcome.converged() ? 1 : 0;
      code = std::max(code, exit_code_of(outcome));
      if (options_.as_json) context_.print("{}\n", outcome_to_json(outcome, diagnose(problem_, outcome)));
      table.row({std::to_string(outcome.seed), std::string(status_word(outcome.status)),
                 short_number(outcome.value, 10), std::to_string(outcome.counts[Spent::evaluations]),
                 is_front ? counted(static_cast<long long>(outcome.front.size()), "point")
                          : point_text(outcome.point, 6, 4)});
    }
    if (!options_.as_json) {
      // A front has no point that could be shown to be the best.
      const std::string sums = is_front ? "" : block_line("converged", fmt::format("{} of {}", converged, done));
      context_.print("\n{}\n{}", table.text(context_.width), sums);
    }
    return code;
  }

  const Context& context_;
  const SolveOptions& options_;
  Problem problem_;
  Method method_;
  std::optional<Preference> preference_;
  Visits visits_;
};

} // namespace

void add_solve(const Command& command, Context& context) {
  auto options = std::make_shared<SolveOptions>();
  command.takes("problem", options->name, "PROBLEM", "a problem, with options after a colon: rosenbrock:dim=10");
  options->problem.add_to(command);
  command.takes("--with", options->methods, "METHOD", "the method, with settings after a colon (nelder-mead)");
  command.takes("--from", options->from, "POINT", "where to begin: 2.5,-1 or y=-1,x=2.5");
  add_seed(command, options->seed);
  add_count(command, "--repeats", options->repeats, "so many runs, with seeds counted up and random starts", 1,
            1'000'000);
  options->stop.add_to(command);
  add_derivative(command, options->derivative);
  add_threads(command, "--jobs", options->jobs, "threads that evaluate a population; the outcome is the same (1)");
  add_count(command, "--every", options->every, "show every k-th iteration; 1 shows all");
  command.flag("--show-points", options->show_points, "show the points, however many variables there are");
  command.flag("--all-minima", options->all_minima, "list all local minima found, by a method that looks for them");
  command.flag("--check-end", options->check_end,
               "check the end of a program or black box by values around it, some 12 for each variable");
  command.flag("--prove", options->prove,
               "of a formula, prove whether anything within the region is better than what was found");
  add_number(command, "--proof-seconds", options->proof_seconds, "how long a proof may take (30)", 0);
  command.takes("--front", options->front, "FILE", "write the front of several objectives: a .csv file");
  command.takes("--prefer", options->prefer, "HOW",
                "one point of the front, and what others cost: knee, weights:0.3,0.7 or reference:12,30");
  command.flag("--quiet", options->quiet, "no iterations, only what came out");
  command.takes("--trace", options->trace, "FILE", "write the iterations: a .csv or .jsonl file");
  command.takes("--population", options->population, "FILE", "write the members of a population: a .csv file");
  command.takes("--visits", options->visits, "FILE", "write every point that was evaluated: a .csv file");
  options->pictures.add_to(command, "the run", true);
  command.flag("--json", options->as_json, "one object for machines");
  command.example("tanzen solve himmelblau --with nelder-mead --from 0,0 --figure path.png");
  command.does([options, &context] { context.exit_code = Solver(context, *options).solve(); });
}

} // namespace tanzen::cli
