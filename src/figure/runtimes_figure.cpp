#include "tanzen/statistics/profiles.hpp"
#include "tanzen/statistics/summaries.hpp"

#include "comparison_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr double first_cost = 0.5;
/// More bands than these, one over the other, are mud.
constexpr std::size_t most_bands = 3;

/// What the runs of a method came to: costs to all targets in units of n + 1, problem by problem.
struct MethodCosts {
  std::vector<std::vector<double>> by_problem;
  double most = 2;
};

MethodCosts costs_of(const Results& results, const std::vector<std::size_t>& problems, std::size_t method) {
  MethodCosts costs;
  for (const std::size_t p : problems) {
    const ResultsProblem& problem = results.problems()[p];
    const double unit = static_cast<double>(problem.dimension) + 1;
    auto& here = costs.by_problem.emplace_back();
    for (const ResultsRun* run : results.runs(p, method)) {
      for (std::size_t k = 0; k < problem.gaps.size(); ++k) here.push_back(run->cost_to(k) / unit);
      costs.most = std::max(costs.most, run->cost / unit);
    }
  }
  return costs;
}

/// From the lower to the upper quartile of the problems' own distributions.
BandLayer band_over_problems(const MethodCosts& costs, const MethodStyle& style, double most) {
  constexpr int places = 120;
  std::vector<StepCurve> curves;
  for (const auto& each : costs.by_problem) curves.push_back(runtime_distribution(each));
  BandLayer band{.color = style.color};
  for (int k = 0; k <= places; ++k) {
    const double cost = first_cost * std::pow(most / first_cost, static_cast<double>(k) / places);
    std::vector<double> shares;
    for (const StepCurve& curve : curves) shares.push_back(curve.at(cost));
    band.x.push_back(cost);
    band.lower.push_back(quantile(shares, 0.25));
    band.upper.push_back(quantile(shares, 0.75));
  }
  return band;
}

} // namespace

Figure runtimes_figure(const Results& results, const ProblemGroup& group) {
  Figure figure = comparison_figure("Distributions of runtimes over all runs and targets", results, group);
  const auto problems = comparable_problems(results, group, group.problems.size());
  const bool has_bands = problems.size() > 1 && results.methods().size() <= most_bands;
  Panel panel{.title = fmt::format("part of the runs and targets done{}",
                                   has_bands ? "; bands: quartiles over the problems" : "")};
  double most = 2;
  std::vector<MethodCosts> all;
  for (std::size_t m = 0; m < results.methods().size(); ++m) {
    all.push_back(costs_of(results, problems, m));
    most = std::max(most, all.back().most);
  }
  for (std::size_t m = 0; m < all.size() && has_bands; ++m) {
    BandLayer band = band_over_problems(all[m], method_style(m), most);
    band.series = results.methods()[m];
    panel.layers.emplace_back(std::move(band));
  }
  for (std::size_t m = 0; m < all.size(); ++m) {
    std::vector<double> pooled;
    for (const auto& each : all[m].by_problem) pooled.insert(pooled.end(), each.begin(), each.end());
    const StepCurve curve = runtime_distribution(pooled);
    add_steps(panel, m, results.methods()[m], curve.cost, curve.share, first_cost, most);
    std::get<LineLayer>(panel.layers.back()).label = results.methods()[m];
  }
  panel.end_labels.clear();
  panel.key_inside = true;
  panel.x = {.label = "cost / (number of variables + 1)", .logarithmic = true, .range = std::array{first_cost, most}};
  panel.y = share_axis("part done");
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
