#include "tanzen/figure/boxes_figure.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/figure/field.hpp"
#include "tanzen/numeric/constants.hpp"

#include "constraint_layers.hpp"
#include "contours.hpp"
#include "path_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// The outline of a box, drawn a little within so that neighbours stay apart.
void add_outline(LineLayer& line, const Vector& lower, const Vector& upper) {
  const Vector room = 0.02 * (upper - lower);
  const Vector a = lower + room, b = upper - room;
  for (const auto& [x, y] : {std::pair{a[0], a[1]}, {b[0], a[1]}, {b[0], b[1]}, {a[0], b[1]}, {a[0], a[1]}}) {
    line.x.push_back(x);
    line.y.push_back(y);
  }
  line.x.push_back(not_known);
  line.y.push_back(not_known);
}

Panel region_panel(const Problem& problem, const Proof& proof) {
  const Box box = problem.sampling_box();
  Panel panel = panel_over(problem, box);
  panel.width = 1.25;
  FieldLayer field = landscape_field(problem, box);
  field.scale = false;
  panel.layers.emplace_back(std::move(field));
  add_constraints(panel, problem, Vector::Zero(2), 0, 1, box, {});
  struct Look {
    Proof::Reason reason;
    const char* color;
  };
  for (const Look& look : {Look{Proof::Reason::value, "#1e1a16"}, Look{Proof::Reason::constraint, "#8e99a5"},
                           Look{Proof::Reason::slope, "#4b9fce"}, Look{Proof::Reason::curvature, "#8a2f6b"},
                           Look{Proof::Reason::convexity, "#35b398"}, Look{Proof::Reason::newton, "#d9b310"}}) {
    // The commonest, by values alone, stays behind the others.
    const double width = look.reason == Proof::Reason::value ? 1 : 1.6;
    LineLayer outlines{.color = look.color, .width = width, .label = std::string(reason_word(look.reason))};
    for (const Proof::Removed& each : proof.removed) {
      if (each.reason == look.reason) add_outline(outlines, each.lower, each.upper);
    }
    if (!outlines.x.empty()) panel.layers.emplace_back(std::move(outlines));
  }
  PointLayer kept{.marker = Marker::diamond, .size = 1.6, .label = "kept"};
  for (const Proof::MinimizerBox& each : proof.boxes) {
    kept.x.push_back(0.5 * (each.lower[0] + each.upper[0]));
    kept.y.push_back(0.5 * (each.lower[1] + each.upper[1]));
  }
  panel.layers.emplace_back(std::move(kept));
  return panel;
}

/// Of two curves, no narrower than numbers beside an axis can tell apart.
std::array<double, 2> range_of(const std::vector<double>& one, const std::vector<double>& other) {
  double least = std::numeric_limits<double>::infinity(), most = -least;
  for (const auto* values : {&one, &other}) {
    for (const double value : *values) {
      least = std::min(least, value);
      most = std::max(most, value);
    }
  }
  if (!(least <= most)) return {0, 1};
  const double room = std::max(0.05 * (most - least), 1e-3 * std::max({1.0, std::abs(least), std::abs(most)}));
  return {least - room, most + room};
}

/// In the user's sense: what is above the one and below the other.
Panel bounds_panel(const Problem& problem, const Outcome& outcome) {
  const std::vector<double> looked_at = outcome.trace.column("looked_at"), lower = outcome.trace.column("lower_bound");
  const std::vector<double> best = outcome.trace.column("best_value");
  LineLayer bound{.color = std::string(series_colors[0]), .width = 2, .label = "no value is lower"};
  LineLayer found{.color = std::string(series_colors[1]), .width = 2, .dash = 2, .label = "best value found"};
  if (problem.sign() < 0) bound.label = "no value is higher";
  for (std::size_t k = 0; k < looked_at.size(); ++k) {
    if (std::isfinite(lower[k])) {
      bound.x.push_back(looked_at[k]);
      bound.y.push_back(problem.sign() * lower[k]);
    }
    if (!std::isfinite(best[k])) continue;
    found.x.push_back(looked_at[k]);
    found.y.push_back(best[k]);
  }
  Panel panel;
  panel.x = {.label = "boxes looked at", .whole_numbers = true};
  const std::array<double, 2> range = range_of(bound.y, found.y);
  constexpr double too_wide = 1000;
  if (range[1] - range[0] > too_wide * std::max(1.0, std::abs(found.y.back()))) {
    LineLayer apart{.color = std::string(series_colors[0]), .width = 2};
    for (std::size_t k = 0; k < looked_at.size(); ++k) {
      const double between = std::abs(best[k] - problem.sign() * lower[k]);
      if (!(between > 0) || !std::isfinite(between)) continue;
      apart.x.push_back(looked_at[k]);
      apart.y.push_back(between);
    }
    panel.y = {.label = "best value found, less the bound", .logarithmic = true};
    panel.layers.emplace_back(std::move(apart));
    return panel;
  }
  panel.y = {.label = "value", .range = range};
  panel.layers.emplace_back(std::move(bound));
  panel.layers.emplace_back(std::move(found));
  return panel;
}

} // namespace

Figure boxes_figure(const Problem& problem, const Outcome& outcome) {
  if (problem.dimension() != 2)
    throw ProblemError(
        fmt::format("boxes are drawn of two variables, and {} has {}", problem.name(), problem.dimension()));
  if (!outcome.proof) throw ProblemError(fmt::format("nothing is proved of {}: {}", problem.name(), outcome.message));
  Figure figure;
  figure.title = fmt::format("What is left of the region of {}", problem.name());
  figure.caption =
      fmt::format("branch-and-bound, {} boxes looked at: the best value lies from {} to {}", outcome.proof->looked_at,
                  number_at_most(outcome.proof->lower, 10), number_at_least(outcome.proof->upper, 10));
  figure.panels = {region_panel(problem, *outcome.proof), bounds_panel(problem, outcome)};
  return figure;
}

} // namespace tanzen
