#include "figure_kinds.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/comparison_figures.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <array>

namespace tanzen::cli {
namespace {

struct ComparisonFigureOptions {
  std::string results = {}, output = {}, only = {}, methods = {};
  std::optional<double> gap = {};
};

using Options = ComparisonFigureOptions;

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

/// The true front of a problem of the testbed.
std::shared_ptr<const KnownFront> true_front(const std::string& label) {
  try {
    return testbed::parse_problem(label).known_front();
  } catch (const InputError&) {
    return nullptr; // it is a problem of its own
  }
}

/// A kind of figure of finished runs.
struct Kind {
  const char* name;
  const char* what;
  bool needs_traces;
  Figure (*make)(const Results& results, const ProblemGroup& group, const Options& options);
};

constexpr std::array kinds = {
    Kind{
        "bands", "gap against cost: medians and quartiles of each method", true,
        [](const Results& results, const ProblemGroup& group, const Options&) { return bands_figure(results, group); }},
    Kind{"runtimes", "distributions of the cost over all runs and targets", false,
         [](const Results& results, const ProblemGroup& group, const Options&) {
           return runtimes_figure(results, group);
         }},
    Kind{"profiles", "performance and data profiles", false,
         [](const Results& results, const ProblemGroup& group, const Options& options) {
           return profiles_figure(results, group, options.gap);
         }},
    Kind{"accuracy", "final gaps as boxes with all runs", false,
         [](const Results& results, const ProblemGroup& group, const Options&) {
           return accuracy_figure(results, group);
         }},
    Kind{"fronts", "fronts of several objectives: what half of the runs attain", true,
         [](const Results& results, const ProblemGroup& group, const Options&) {
           return fronts_figure(results, group, true_front);
         }},
    Kind{"successes", "how many repeats succeeded, method by problem", false,
         [](const Results& results, const ProblemGroup& group, const Options& options) {
           return successes_figure(results, group, options.gap);
         }},
    Kind{"ranks", "mean ranks, and what they do not tell apart", false,
         [](const Results& results, const ProblemGroup& group, const Options& options) {
           return ranks_figure(results, group, options.gap);
         }},
    Kind{"scaling", "cost against the number of variables", false,
         [](const Results& results, const ProblemGroup& group, const Options& options) {
           return scaling_figure(results, group, options.gap);
         }},
    Kind{"pair", "two methods' costs in each paired run", false,
         [](const Results& results, const ProblemGroup& group, const Options& options) {
           return pair_figure(results, group, pair_of(results, options.methods), options.gap);
         }},
};

void draw_kind(const Context& context, const Kind& kind, const Options& options) {
  check_figure_name(options.output);
  const Results results = ResultsFile::reading(options.results).load(kind.needs_traces);
  const ProblemGroup group =
      options.only.empty() ? group_problems(results).front() : only_problems(results, options.only);
  draw(context, kind.make(results, group, options), options.output);
}

} // namespace

void draw_comparisons(const Context& context, const Results& results, const ProblemGroup& group,
                      std::optional<double> gap, const std::filesystem::path& folder) {
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  if (error) throw FileError(fmt::format("cannot make the folder {}: {}", folder.string(), error.message()));
  for (const Kind& kind : kinds) {
    std::optional<Figure> figure;
    try {
      figure = kind.make(results, group, {.gap = gap});
    } catch (const InputError&) {
      continue; // these results have nothing of that kind to show
    }
    draw(context, *figure, (folder / (std::string(kind.name) + ".png")).string());
  }
}

void add_comparison_kinds(const Command& figure, Context& context) {
  for (const Kind& kind : kinds) {
    const Command command = figure.command(kind.name, kind.what);
    auto options = std::make_shared<Options>();
    command.needs("results", options->results, "FILE", "a results file");
    command.needs("--output", options->output, "FILE", "the file: .png, .svg or .pdf");
    command.takes("--only", options->only, "WORDS", "only the problems that are so: ill-conditioned,dim=10");
    add_number(command, "--gap", options->gap, "what counts as success (the smallest target)", 0);
    if (std::string_view(kind.name) == "pair")
      command.takes("--methods", options->methods, "NAMES", "which two: bfgs,cma-es (the first two)");
    command.example(fmt::format("tanzen figure {} plan.results.sqlite --output {}.png", kind.name, kind.name));
    command.does([options, &kind, &context] { draw_kind(context, kind, *options); });
  }
}

} // namespace tanzen::cli
