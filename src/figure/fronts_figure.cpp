#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/statistics/fronts.hpp"

#include "comparison_layers.hpp"
#include "front_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// In the senses of the user, or back.
Matrix turned(Matrix points, const std::vector<Objective>& objectives) {
  for (Index k = 0; k < points.rows(); ++k) points.row(k) *= sign_of(objectives[static_cast<std::size_t>(k)].sense);
  return points;
}

/// A surface as its corners: from each point to the right, then down.
LineLayer steps_of(const Matrix& surface) {
  LineLayer line;
  for (Index k = 0; k < surface.cols(); ++k) {
    if (k > 0) {
      line.x.push_back(surface(0, k));
      line.y.push_back(surface(1, k - 1));
    }
    line.x.push_back(surface(0, k));
    line.y.push_back(surface(1, k));
  }
  return line;
}

std::vector<Matrix> fronts_of(const std::vector<const ResultsRun*>& runs, const std::vector<Objective>& objectives) {
  std::vector<Matrix> fronts;
  for (const ResultsRun* run : runs)
    fronts.push_back(
        turned(run->front.cols() > 0 ? run->front : Matrix(static_cast<Index>(objectives.size()), 0), objectives));
  return fronts;
}

/// What half of a method's runs attain, and thin lines for a quarter and three quarters of them.
void add_attained(Panel& panel, const Results& results, std::size_t p, std::size_t m) {
  const std::vector<Objective>& objectives = results.problems()[p].objectives;
  const std::vector<Matrix> fronts = fronts_of(results.runs(p, m), objectives);
  const auto runs = static_cast<double>(fronts.size());
  const MethodStyle style = method_style(m);
  for (const double part : {0.25, 0.75, 0.5}) {
    const auto count =
        std::clamp<Index>(static_cast<Index>(std::lround(part * runs)), 1, static_cast<Index>(fronts.size()));
    LineLayer line = steps_of(turned(attainment_surface(fronts, count), objectives));
    if (line.x.empty()) continue;
    line.color = style.color;
    line.dash = style.dash;
    line.series = results.methods()[m];
    line.width = part == 0.5 ? 2 : 0.6;
    if (part == 0.5) line.label = results.methods()[m];
    panel.layers.emplace_back(std::move(line));
  }
}

/// Around the true front and as much again of what is worse: what lies farther out would press it flat.
void frame(Panel& panel, const Matrix& true_front, const ObjectiveBox& box) {
  const Vector least = true_front.rowwise().minCoeff(), most = true_front.rowwise().maxCoeff(), width = most - least;
  const auto range = [&](Index row) {
    return std::array{std::max(box.lower[row], least[row] - width[row]) - 0.04 * width[row],
                      std::min(box.upper[row], most[row] + width[row]) + 0.04 * width[row]};
  };
  panel.x.range = range(0);
  panel.y.range = range(1);
}

/// A key once is enough: the styles are the same on all panels of a kind.
void drop_key(Panel& panel) {
  for (Layer& layer : panel.layers) {
    if (auto* line = std::get_if<LineLayer>(&layer)) line->label.clear();
    if (auto* points = std::get_if<PointLayer>(&layer)) points->label.clear();
  }
}

/// The run with the middle gap.
const ResultsRun& median_run(std::vector<const ResultsRun*> runs) {
  std::ranges::stable_sort(runs, {}, &ResultsRun::gap);
  return *runs[runs.size() / 2];
}

Panel fronts_panel(const Results& results, std::size_t p, const TrueFronts& true_front) {
  const ResultsProblem& problem = results.problems()[p];
  Panel panel = objective_panel(problem.objectives);
  panel.title = problem.label;
  ObjectiveBox box;
  for (std::size_t m = 0; m < results.methods().size(); ++m)
    for (const ResultsRun* run : results.runs(p, m)) box.hold(run->front);
  if (const auto known = true_front(problem.label);
      known && known->ideal.size() == static_cast<Index>(problem.objectives.size())) {
    const Matrix points = true_front_points(*known, problem.objectives, true_points);
    box.hold(points);
    if (points.rows() == 2) frame(panel, points, box);
    add_true_front(panel, points, box);
  }
  for (std::size_t m = 0; m < results.methods().size(); ++m) {
    if (problem.objectives.size() == 2) {
      add_attained(panel, results, p, m);
      continue;
    }
    const MethodStyle style = method_style(m);
    add_front_points(panel, median_run(results.runs(p, m)).front, box,
                     {.marker = style.marker,
                      .color = style.color,
                      .size = 0.8,
                      .label = results.methods()[m],
                      .series = results.methods()[m]});
  }
  return panel;
}

} // namespace

Figure fronts_figure(const Results& results, const ProblemGroup& group, const TrueFronts& true_front) {
  ProblemGroup several = group;
  std::erase_if(several.problems, [&](std::size_t p) { return results.problems()[p].objectives.empty(); });
  if (several.problems.empty())
    throw InputError("none of these problems has several objectives, so there is no front to show");
  Figure figure = comparison_figure("Fronts: what half of the runs attain, thin what a quarter and three quarters do",
                                    results, several);
  bool has_plane_key = false, has_space_key = false;
  for (const std::size_t p : comparable_problems(results, several, most_comparison_panels)) {
    const auto runs = results.runs(p, 0);
    if (std::ranges::all_of(runs, [](const ResultsRun* run) { return run->front.cols() == 0; })) continue;
    figure.panels.push_back(fronts_panel(results, p, true_front));
    const bool is_plane = results.problems()[p].objectives.size() == 2;
    bool& has_key = is_plane ? has_plane_key : has_space_key;
    if (has_key) drop_key(figure.panels.back());
    has_key = true;
  }
  if (figure.panels.empty()) throw InputError("these results hold no fronts");
  arrange(figure);
  return figure;
}

} // namespace tanzen
