#include "figure_kinds.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/ends_figure.hpp"
#include "tanzen/figure/front_figure.hpp"
#include "tanzen/figure/population_figure.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/figure/sample_figure.hpp"
#include "tanzen/search/outcome.hpp"

#include <algorithm>

namespace tanzen::cli {
namespace {

std::vector<std::int64_t> parse_iterations(const std::string& text) {
  std::vector<std::int64_t> iterations;
  for (const std::string& piece : split(text, ',')) {
    const auto number = read_number(piece);
    if (!number || *number < 1 || *number != std::floor(*number) || *number > 1e9)
      throw InputError(fmt::format("--at takes iterations, as in 1,5,20; found '{}'", clipped(piece, 40)));
    iterations.push_back(static_cast<std::int64_t>(*number));
  }
  return iterations;
}

/// Whether a figure of that name can show all iterations one after the other.
bool moves(const std::filesystem::path& output) {
  const std::string ending = output.extension().string();
  return ending == ".html" || ending == ".gif" || ending == ".mp4";
}

void draw_population(const Context& context, const FigureOptions& options) {
  constexpr std::size_t panels = 6;
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_output(options.output);
  const std::vector<Method> methods = chosen_methods(context, options, problem);
  if (methods.size() != 1) throw InputError("population looks at one method: --with cma-es");
  const bool is_front = problem.objectives().size() > 1;
  if (!is_front) check_population_figure(problem);
  RunOptions how{.seed = options.seed, .stop = options.stop.rules_for(problem), .trace = {.most_populations = 400}};
  if (!options.from.empty()) how.start = parse_point(options.from, problem.variable_names(), "--from");
  std::vector<PopulationSnapshot> snapshots;
  if (!options.at.empty()) {
    const std::vector<std::int64_t> wanted = parse_iterations(options.at);
    how.observer = [&snapshots, wanted, &problem](const Progress& progress) {
      const bool is_wanted = std::ranges::find(wanted, progress.iteration) != wanted.end();
      if (is_wanted && progress.details != nullptr && progress.details->population() != nullptr)
        snapshots.push_back({progress.iteration, *progress.details->population(),
                             problem.sign() * *progress.details->population_values()});
      return Watch::go_on;
    };
  }
  const Outcome outcome = run(problem, methods.front(), how);
  if (options.at.empty() && !is_front && moves(options.output)) {
    context.print("{}", to_text(outcome));
    draw(context, options.film.filmed(population_film(problem, outcome, outcome.trace.populations())), options.output);
    return;
  }
  if (options.at.empty()) snapshots = spread_snapshots(outcome.trace.populations(), panels);
  context.print("{}", to_text(outcome));
  draw(context,
       is_front ? front_growth_figure(problem, outcome, snapshots) : population_figure(problem, outcome, snapshots),
       options.output);
}

void draw_sample(const Context& context, const FigureOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_output(options.output);
  draw(context, sample_figure(problem, options.count.value_or(1000), parse_sampling(options.sampling), options.seed),
       options.output);
}

/// The best and the median of what runs reached: gaps where the best value is known, otherwise values.
std::string reached_text(const Problem& problem, const std::vector<Outcome>& runs) {
  std::vector<double> reached;
  for (const Outcome& outcome : runs) {
    const double missing = sign_of(problem.value_sense()) * std::numeric_limits<double>::infinity();
    reached.push_back(outcome.gap.value_or(std::isnan(outcome.value) ? missing : outcome.value));
  }
  const double sign = problem.best_value() ? 1 : sign_of(problem.value_sense());
  std::ranges::sort(reached, {}, [sign](double value) { return sign * value; });
  return fmt::format("{} best {}, median {}", problem.best_value() ? "gap" : "value", short_number(reached.front(), 3),
                     short_number(reached[reached.size() / 2], 3));
}

void draw_ends(const Context& context, const FigureOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_output(options.output);
  std::vector<std::vector<Outcome>> outcomes;
  for (const Method& method : chosen_methods(context, options, problem)) {
    auto& runs = outcomes.emplace_back();
    std::int64_t converged = 0;
    for (std::int64_t k = 0; k < options.count.value_or(20); ++k) {
      RunOptions how{.seed = options.seed + static_cast<std::uint64_t>(k), .repeat = 1, .stop = options.stop.rules()};
      runs.push_back(run(problem, method, how));
      converged += runs.back().converged() ? 1 : 0;
    }
    context.print("{}", block_line(method.label(), fmt::format("{}; {} of {} converged", reached_text(problem, runs),
                                                               converged, runs.size())));
  }
  if (outcomes.empty()) throw InputError("ends needs methods: --with nelder-mead --with cma-es");
  draw(context, ends_figure(problem, outcomes), options.output);
}

} // namespace

void add_population_kinds(const Command& figure, Context& context) {
  const auto [population, of] = add_kind(
      figure, context, "population", "a population at a few iterations, over the landscape or in objective space",
      "tanzen figure population rastrigin --with cma-es --at 1,5,10,20 --output population.png", draw_population);
  population.takes("--with", of->methods, "METHOD", "the method, with settings after a colon");
  population.takes("--at", of->at, "LIST", "which iterations, as in 1,5,20; a few spread over the run");
  population.takes("--from", of->from, "POINT", "where the run begins: 2.5,-1 or y=-1,x=2.5");
  add_seed(population, of->seed);
  of->stop.add_to(population);
  of->film.add_film_to(population);
  const auto [sample, drawn] = add_kind(figure, context, "sample", "random points of the region and their values",
                                        "tanzen figure sample schwefel --points 2000 --output sample.png", draw_sample);
  add_count(sample, "--points", drawn->count, "how many points (1000)");
  sample.takes("--sampling", drawn->sampling, "WORD", "uniform, latin-hypercube or sobol (uniform)");
  add_seed(sample, drawn->seed);
  const auto [ends, runs] =
      add_kind(figure, context, "ends", "where the runs of several methods end",
               "tanzen figure ends eggholder --with nelder-mead --with cma-es --output ends.png", draw_ends);
  ends.takes("--with", runs->methods, "METHOD", "a method, with settings after a colon; several times");
  add_count(ends, "--repeats", runs->count, "runs of each method, from random starts (20)");
  add_seed(ends, runs->seed);
  runs->stop.add_to(ends);
}

} // namespace tanzen::cli
