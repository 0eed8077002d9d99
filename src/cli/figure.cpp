#include "figure_kinds.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
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
  check_figure_name(options.output);
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
  check_figure_name(options.output);
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
  check_figure_name(options.output);
  if (options.methods.empty()) throw InputError("paths needs methods: --with newton --with bfgs");
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
  draw(context, paths_figure(problem, outcomes), options.output);
}

void draw_search_line(const Context& context, const FigureOptions& options) {
  const Problem problem = options.problem.problem(context.additions, options.name);
  check_figure_name(options.output);
  if (options.methods.size() != 1) throw InputError("search-line looks at one method: --with bfgs");
  const Method method = chosen_methods(context, options, problem).front();
  RunOptions how{.seed = options.seed, .stop = options.stop.rules()};
  if (!options.from.empty()) how.start = parse_point(options.from, problem.variable_names(), "--from");
  const SearchLine line = search_line(problem, method, how, options.iteration.value_or(1));
  draw(context, search_line_figure(problem, line), options.output);
}

} // namespace

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

FigureKind add_kind(CLI::App& figure, Context& context, const char* name, const char* what, const char* example,
                    void (*draw_it)(const Context&, const FigureOptions&)) {
  auto* command = figure.add_subcommand(name, what);
  auto options = std::make_shared<FigureOptions>();
  command->add_option("problem", options->name, "a problem, with options after a colon")->type_name("PROBLEM");
  options->problem.add_to(*command);
  command->add_option("--output", options->output, "the file: .png, .svg or .pdf")->type_name("FILE")->required();
  command->footer(std::string("Example: ") + example);
  command->callback([options, &context, draw_it] { draw_it(context, *options); });
  return {*command, options};
}

void add_figure(CLI::App& program, Context& context) {
  auto* command = program.add_subcommand("figure", "one picture: png, svg or pdf by its ending");
  command->require_subcommand(1);
  const auto [landscape, seen] = add_kind(*command, context, "landscape", "what a problem looks like over its region",
                                          "tanzen figure landscape himmelblau --output landscape.png", draw_landscape);
  landscape.add_option("--through", seen->through, "more than two variables: the point that the planes go through")
      ->type_name("POINT");
  landscape.add_option("--plane", seen->plane, "more than two variables: the two that are shown, as in x1,x3")
      ->type_name("NAMES");
  landscape.add_flag("--surface", seen->surface, "the surface in perspective");
  const auto [slice, line] =
      add_kind(*command, context, "slice", "the function along a line, with the gradient's slope at its start",
               "tanzen figure slice rosenbrock --from -1.2,1 --to 1,1 --output slice.png", draw_slice);
  slice.add_option("--from", line->from, "where the line begins")->type_name("POINT")->required();
  slice.add_option("--to", line->to, "where it ends")->type_name("POINT");
  slice.add_option("--along", line->along, "or its direction and length")->type_name("VECTOR");
  const auto [paths, several] =
      add_kind(*command, context, "paths", "several methods from one start on one landscape",
               "tanzen figure paths rosenbrock --with bfgs --with nelder-mead --output paths.png", draw_paths);
  paths.add_option("--with", several->methods, "a method, with settings after a colon; several times")
      ->type_name("METHOD")
      ->allow_extra_args(false);
  paths.add_option("--from", several->from, "where all begin: 2.5,-1 or y=-1,x=2.5")->type_name("POINT");
  add_seed(paths, several->seed);
  several->stop.add_to(paths);
  const auto [trials, one] =
      add_kind(*command, context, "search-line",
               "the function along one iteration's direction, with the trials of its line search",
               "tanzen figure search-line rosenbrock --with bfgs --iteration 4 --output line.png", draw_search_line);
  trials.add_option("--with", one->methods, "the method, with settings after a colon")->type_name("METHOD");
  add_count(trials, "--iteration", one->iteration, "which iteration (1)");
  trials.add_option("--from", one->from, "where the run begins: 2.5,-1 or y=-1,x=2.5")->type_name("POINT");
  add_seed(trials, one->seed);
  add_population_kinds(*command, context);
  add_comparison_kinds(*command, context);
}

} // namespace tanzen::cli
