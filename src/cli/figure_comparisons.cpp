#include "figure_kinds.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/testbed/testbed.hpp"

namespace tanzen::cli {
namespace {

struct FinishedRunsOptions {
  std::string results = {}, output = {}, only = {}, methods = {};
  std::optional<double> gap = {};
};

/// `bfgs,cma-es`, or the first two methods.
std::pair<std::size_t, std::size_t> pair_of(const Results& results, const std::string& text) {
  if (results.methods().size() < 2) throw InputError("a pair needs two methods; these results have one");
  if (text.empty()) return {0, 1};
  std::vector<std::size_t> places;
  for (const std::string& name : split(text, ',')) {
    const auto found = std::ranges::find(results.methods(), name);
    if (found == results.methods().end())
      throw InputError(fmt::format("--methods: the results have no method '{}' (they have {}){}", clipped(name, 40),
                                   joined(results.methods(), ", "), did_you_mean(name, results.methods())));
    places.push_back(static_cast<std::size_t>(found - results.methods().begin()));
  }
  if (places.size() != 2) throw InputError("--methods takes two, as in bfgs,cma-es");
  return {places[0], places[1]};
}

void draw_kind(const Context& context, const ComparisonFigureKind& kind, const FinishedRunsOptions& options) {
  check_output(options.output);
  const Results results = ResultsFile::reading(options.results).load(kind.needs_traces);
  const ProblemGroup group =
      options.only.empty() ? group_problems(results).front() : only_problems(results, options.only);
  ComparisonFigureOptions how{.gap = options.gap, .true_front = true_front};
  if (std::string_view(kind.name) == "pair") how.methods = pair_of(results, options.methods);
  draw(context, kind.make(results, group, how), options.output);
}

} // namespace

std::shared_ptr<const KnownFront> true_front(const std::string& label) {
  try {
    return testbed::parse_problem(label).known_front();
  } catch (const InputError&) {
    return nullptr; // it is a problem of its own
  }
}

void draw_comparisons(const Context& context, const Results& results, const ProblemGroup& group,
                      std::optional<double> gap, const std::filesystem::path& folder) {
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  if (error) throw FileError(fmt::format("cannot make the folder {}: {}", folder.string(), error.message()));
  for (const ComparisonFigureKind& kind : comparison_figure_kinds()) {
    const auto figure = figure_of_kind(kind, results, group, {.gap = gap, .true_front = true_front});
    if (figure) draw(context, *figure, (folder / (std::string(kind.name) + ".png")).string());
  }
}

void add_comparison_kinds(const Command& figure, Context& context) {
  for (const ComparisonFigureKind& kind : comparison_figure_kinds()) {
    const Command command = figure.command(kind.name, kind.what);
    auto options = std::make_shared<FinishedRunsOptions>();
    command.needs("results", options->results, "FILE", "a results file");
    command.needs("--output", options->output, "FILE", "the file: .png, .svg, .pdf or .html");
    command.takes("--only", options->only, "WORDS", "only the problems that are so: ill-conditioned,dim=10");
    add_number(command, "--gap", options->gap, "what counts as success (the smallest target)", 0);
    if (std::string_view(kind.name) == "pair")
      command.takes("--methods", options->methods, "NAMES", "which two: bfgs,cma-es (the first two)");
    command.example(fmt::format("tanzen figure {} plan.results.sqlite --output {}.png", kind.name, kind.name));
    command.does([options, &kind, &context] { draw_kind(context, kind, *options); });
  }
}

} // namespace tanzen::cli
