#include "tanzen/statistics/profiles.hpp"

#include "tanzen/base/text.hpp"

#include "comparison_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// The costs of all paired runs to a gap, and each one's number of variables.
struct PairedCosts {
  Matrix costs;
  std::vector<Index> variables;
};

PairedCosts paired_costs(const Results& results, const std::vector<std::size_t>& problems, std::optional<double> gap) {
  PairedCosts paired;
  for (const std::size_t p : problems)
    paired.variables.insert(paired.variables.end(), results.repeats_of(p).size(), results.problems()[p].dimension);
  paired.costs.resize(static_cast<Index>(paired.variables.size()), static_cast<Index>(results.methods().size()));
  Index row = 0;
  for (const std::size_t p : problems) {
    const std::size_t target = results.target_for(p, gap);
    for (const std::int64_t repeat : results.repeats_of(p)) {
      for (std::size_t m = 0; m < results.methods().size(); ++m)
        paired.costs(row, static_cast<Index>(m)) = results.run({p, repeat, m}).cost_to(target);
      ++row;
    }
  }
  return paired;
}

Panel profile_panel(const Results& results, const std::vector<StepCurve>& curves, double from, std::string title,
                    std::string label) {
  Panel panel{.title = std::move(title)};
  double most = 2 * from;
  for (const StepCurve& curve : curves) {
    if (!curve.cost.empty()) most = std::max(most, curve.cost.back());
  }
  most *= 1.15;
  for (std::size_t m = 0; m < curves.size(); ++m)
    add_steps(panel, m, results.methods()[m], curves[m].cost, curves[m].share, from, most);
  panel.x = {.label = std::move(label), .logarithmic = true, .range = std::array{from, most}};
  panel.y = share_axis("part of the runs");
  return panel;
}

} // namespace

Figure profiles_figure(const Results& results, const ProblemGroup& group, std::optional<double> gap) {
  const auto problems = comparable_problems(results, group, group.problems.size());
  const PairedCosts paired = paired_costs(results, problems, gap);
  const std::string reached = gap ? fmt::format("a gap of {}", number_text(*gap)) : std::string("the smallest target");
  Figure figure = comparison_figure(fmt::format("Performance and data profiles to {}", reached), results, group);
  figure.panels.push_back(profile_panel(results, performance_profiles(paired.costs), 1, "performance profile",
                                        "cost / least cost of all methods"));
  const auto data = data_profiles(paired.costs, paired.variables);
  double least = 1;
  for (const StepCurve& curve : data) {
    if (!curve.cost.empty()) least = std::min(least, curve.cost.front());
  }
  figure.panels.push_back(profile_panel(results, data, least, "data profile", "cost / (number of variables + 1)"));
  figure.columns = 2;
  return figure;
}

} // namespace tanzen
