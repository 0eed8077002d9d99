#include "tanzen/analysis/profiles.hpp"

#include "comparison_layers.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {

Figure runtimes_figure(const Results& results, const ProblemGroup& group) {
  Figure figure = comparison_figure("Distributions of runtimes over all runs and targets", results, group);
  const auto problems = comparable_problems(results, group, group.problems.size());
  Panel panel{.title = "part of the runs and targets done"};
  double most = 2;
  std::vector<StepCurve> curves;
  for (std::size_t m = 0; m < results.methods().size(); ++m) {
    std::vector<double> costs;
    for (const std::size_t p : problems) {
      const ResultsProblem& problem = results.problems()[p];
      const auto variables = static_cast<double>(problem.dimension);
      for (const ResultsRun* run : results.runs(p, m)) {
        for (std::size_t k = 0; k < problem.gaps.size(); ++k) costs.push_back(run->cost_to(k) / variables);
        most = std::max(most, run->cost / variables);
      }
    }
    curves.push_back(runtime_distribution(costs));
  }
  constexpr double from = 0.5;
  for (std::size_t m = 0; m < curves.size(); ++m)
    add_steps(panel, m, results.methods()[m], curves[m].cost, curves[m].share, from, most);
  panel.x = {.label = "cost / number of variables", .logarithmic = true, .range = std::array{from, most}};
  panel.y = share_axis("part done");
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
