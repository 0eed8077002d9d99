#include "tanzen/base/errors.hpp"
#include "tanzen/figure/comparison_figures.hpp"

#include <array>

namespace tanzen {
namespace {

using Options = ComparisonFigureOptions;

constexpr std::array kinds = {
    ComparisonFigureKind{
        "bands", "gap against cost: medians and quartiles of each method", true,
        [](const Results& results, const ProblemGroup& group, const Options&) { return bands_figure(results, group); }},
    ComparisonFigureKind{"runtimes", "distributions of the cost over all runs and targets", false,
                         [](const Results& results, const ProblemGroup& group, const Options&) {
                           return runtimes_figure(results, group);
                         }},
    ComparisonFigureKind{"profiles", "performance and data profiles", false,
                         [](const Results& results, const ProblemGroup& group, const Options& options) {
                           return profiles_figure(results, group, options.gap);
                         }},
    ComparisonFigureKind{"accuracy", "final gaps as boxes with all runs", false,
                         [](const Results& results, const ProblemGroup& group, const Options&) {
                           return accuracy_figure(results, group);
                         }},
    ComparisonFigureKind{"fronts", "fronts of several objectives: what half of the runs attain", true,
                         [](const Results& results, const ProblemGroup& group, const Options& options) {
                           return fronts_figure(results, group, options.true_front);
                         }},
    ComparisonFigureKind{"successes", "how many repeats succeeded, method by problem", false,
                         [](const Results& results, const ProblemGroup& group, const Options& options) {
                           return successes_figure(results, group, options.gap);
                         }},
    ComparisonFigureKind{"ranks", "mean ranks, and what they do not tell apart", false,
                         [](const Results& results, const ProblemGroup& group, const Options& options) {
                           return ranks_figure(results, group, options.gap);
                         }},
    ComparisonFigureKind{"scaling", "cost against the number of variables", false,
                         [](const Results& results, const ProblemGroup& group, const Options& options) {
                           return scaling_figure(results, group, options.gap);
                         }},
    ComparisonFigureKind{"pair", "two methods' costs in each paired run", false,
                         [](const Results& results, const ProblemGroup& group, const Options& options) {
                           return pair_figure(results, group, options.methods, options.gap);
                         }},
};

} // namespace

std::span<const ComparisonFigureKind> comparison_figure_kinds() {
  return kinds;
}

std::optional<Figure> figure_of_kind(const ComparisonFigureKind& kind, const Results& results,
                                     const ProblemGroup& group, const ComparisonFigureOptions& options) {
  if (results.methods().size() < 2 && std::string_view(kind.name) == "pair") return std::nullopt;
  try {
    return kind.make(results, group, options);
  } catch (const InputError&) {
    return std::nullopt;
  }
}

} // namespace tanzen
