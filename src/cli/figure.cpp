#include "figure_kinds.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/boxes_figure.hpp"
#include "tanzen/figure/landscape_figure.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/figure/search_line_figure.hpp"
#include "tanzen/figure/sweep_figure.hpp"
#include "tanzen/search/outcome.hpp"

namespace tanzen::cli {
namespace {

std::pair<Index, Index> parse_plane(const std::string& text, const std::vector<std::string>& names) {
  const auto pieces = split(text, ',');
  std::vector<Index> places;
  for (const std::string& piece : pieces) {
    const auto found = std::ranges::find(names, piece);
    if (found == names.end())
      throw InputError(
          fmt::format("--plane: there is no variable '{}'{}", clipped(piece, 40), did_you_mean(piece, names)));
    places.push_back(found - names.begin());
  }
  if (places.size() != 2 || places[0] == places[1])
    throw InputError("--plane takes two different variables, as in x1,x3");
  return {places[0], places[1]};
}

void draw_landscape(const Context& context, const FigureOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_output(options.output);
  const auto names = problem.variable_names();
  LandscapeOptions landscape{.surface = options.surface};
  if (options.surface && problem.dimension() == 1)
    throw InputError("a surface needs two variables; this problem has one");
  if (!options.through.empty()) landscape.through = parse_point(options.through, names, "--through");
  if (!options.plane.empty()) landscape.plane = parse_plane(options.plane, names);
  draw(context, landscape_figure(problem, landscape), options.output);
}

void draw_slice(const Context& context, const FigureOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_output(options.output);
  const auto names = problem.variable_names();
  if (options.to.empty() == options.along.empty())
    throw InputError("a slice needs its end, --to POINT, or its direction, --along VECTOR; one of them");
  const Vector from = parse_point(options.from, names, "--from");
  const Vector to = options.to.empty() ? Vector(from + parse_point(options.along, names, "--along"))
                                       : parse_point(options.to, names, "--to");
  if (to == from) throw InputError("the slice has no length: its two ends are the same point");
  draw(context, slice_figure(problem, from, to), options.output);
}

void draw_paths(const Context& context, const FigureOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_output(options.output);
  if (options.methods.empty()) throw InputError("paths needs methods: --with newton --with bfgs");
  if (options.surface && problem.dimension() != 2)
    throw InputError(fmt::format("a surface needs two variables; this problem has {}", problem.dimension()));
  std::vector<Outcome> outcomes;
  RunOptions how{.seed = options.seed, .stop = options.stop.rules(), .trace = {.points = problem.dimension() <= 2}};
  if (!options.from.empty()) how.start = parse_point(options.from, problem.variable_names(), "--from");
  for (const Method& each : chosen_methods(context, options, problem)) {
    outcomes.push_back(run(problem, each, how));
    const Outcome& outcome = outcomes.back();
    context.print("{}", block_line(each.label(), fmt::format("{} after {}, {}", short_number(outcome.last_value, 6),
                                                             counted(outcome.counts[Spent::evaluations], "evaluation"),
                                                             outcome.message)));
  }
  draw(context, options.film.filmed(paths_figure(problem, outcomes, options.surface)), options.output);
}

void draw_search_line(const Context& context, const FigureOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_output(options.output);
  if (options.methods.size() != 1) throw InputError("search-line looks at one method: --with bfgs");
  const Method method = chosen_methods(context, options, problem).front();
  RunOptions how{.seed = options.seed, .stop = options.stop.rules()};
  if (!options.from.empty()) how.start = parse_point(options.from, problem.variable_names(), "--from");
  const SearchLine line = search_line(problem, method, how, options.iteration.value_or(1));
  draw(context, search_line_figure(problem, line), options.output);
}

void draw_boxes(const Context& context, const FigureOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_output(options.output);
  const Method prover = context.additions.methods.parse("branch-and-bound:at-once=1,record=20000");
  check_able(prover, problem);
  StopRules stop = options.stop.rules();
  if (!stop.seconds) stop.seconds = 30;
  draw(context, boxes_figure(problem, run(problem, prover, {.stop = stop})), options.output);
}

} // namespace

void check_output(const std::string& output) {
  check_figure_name(output);
  check_outputs(std::array{OutputFile{"--output", output}});
}

void draw(const Context& context, const Figure& figure, const std::string& output) {
  render(figure, output);
  context.print("{}", block_line("figure", output));
}

std::vector<Method> chosen_methods(const Context& context, const FigureOptions& options, const Problem& problem) {
  std::vector<Method> methods;
  for (const std::string& each : options.methods) {
    methods.push_back(context.additions.methods.parse(each));
    check_able(methods.back(), problem);
  }
  return methods;
}

FigureKind add_kind(const Command& figure, Context& context, const char* name, const char* what, const char* example,
                    void (*draw_it)(const Context&, const FigureOptions&)) {
  const Command command = figure.command(name, what);
  auto options = std::make_shared<FigureOptions>();
  command.takes("problem", options->name, "PROBLEM", "a problem, with options after a colon");
  options->problem.add_to(command);
  command.needs("--output", options->output, "FILE", "the file: .png, .svg, .pdf or .html");
  command.example(example);
  command.does([options, &context, draw_it] { draw_it(context, *options); });
  return {command, options};
}

void add_figure(const Command& command, Context& context) {
  command.needs_command();
  const auto [landscape, seen] = add_kind(command, context, "landscape", "what a problem looks like over its region",
                                          "tanzen figure landscape himmelblau --output landscape.png", draw_landscape);
  landscape.takes("--through", seen->through, "POINT", "more than two variables: the point that the planes go through");
  landscape.takes("--plane", seen->plane, "NAMES", "more than two variables: the two that are shown, as in x1,x3");
  landscape.flag("--surface", seen->surface, "the surface in perspective");
  const auto [slice, line] =
      add_kind(command, context, "slice", "the function along a line, with the gradient's slope at its start",
               "tanzen figure slice rosenbrock --from -1.2,1 --to 1,1 --output slice.png", draw_slice);
  slice.needs("--from", line->from, "POINT", "where the line begins");
  slice.takes("--to", line->to, "POINT", "where it ends");
  slice.takes("--along", line->along, "VECTOR", "or its direction and length");
  const auto [paths, several] =
      add_kind(command, context, "paths", "several methods from one start on one landscape",
               "tanzen figure paths rosenbrock --with bfgs --with nelder-mead --output paths.png", draw_paths);
  paths.takes("--with", several->methods, "METHOD", "a method, with settings after a colon; several times");
  paths.takes("--from", several->from, "POINT", "where all begin: 2.5,-1 or y=-1,x=2.5");
  paths.flag("--surface", several->surface, "on the surface in perspective, of two variables");
  add_seed(paths, several->seed);
  several->stop.add_to(paths);
  several->film.add_film_to(paths);
  const auto [trials, one] =
      add_kind(command, context, "search-line",
               "the function along one iteration's direction, with the trials of its line search",
               "tanzen figure search-line rosenbrock --with bfgs --iteration 4 --output line.png", draw_search_line);
  trials.takes("--with", one->methods, "METHOD", "the method, with settings after a colon");
  add_count(trials, "--iteration", one->iteration, "which iteration (1)");
  trials.takes("--from", one->from, "POINT", "where the run begins: 2.5,-1 or y=-1,x=2.5");
  add_seed(trials, one->seed);
  const auto [boxes, proof] =
      add_kind(command, context, "boxes", "how a proof goes: the parts of the region thrown away, and the bounds",
               "tanzen figure boxes himmelblau --output boxes.png", draw_boxes);
  proof->stop.add_to(boxes);
  add_population_kinds(command, context);
  add_comparison_kinds(command, context);
}

} // namespace tanzen::cli
