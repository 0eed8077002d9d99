#include "constraint_layers.hpp"

#include "contours.hpp"
#include "tanzen/numeric/constants.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr Index veil_resolution = 300;

/// The values of all constraints over a plane.
struct PlaneOfRows {
  Vector x, y;
  std::vector<Matrix> rows; ///< of each constraint: row i for y[i], column j for x[j]

  PlaneOfRows(const Problem& problem, const Vector& through, Index first, Index second, const Box& plane)
      : x(Vector::LinSpaced(veil_resolution, plane.lower[0], plane.upper[0])),
        y(Vector::LinSpaced(veil_resolution, plane.lower[1], plane.upper[1])),
        rows(problem.constraints().size(), Matrix(veil_resolution, veil_resolution)) {
    const auto worker = problem.bundle()->worker();
    Matrix points = through.replicate(1, veil_resolution), parts;
    points.row(first) = x;
    for (Index i = 0; i < veil_resolution; ++i) {
      points.row(second).setConstant(y[i]);
      worker->outputs(points, parts);
      for (std::size_t k = 0; k < rows.size(); ++k)
        rows[k].row(i) = parts.row(problem.parts().objectives + static_cast<Index>(k));
    }
  }
};

/// An equality is kept on a line alone: it veils nothing.
VeilLayer veil_over(const PlaneOfRows& plane, const std::vector<Constraint>& constraints) {
  VeilLayer veil{.x = plane.x, .y = plane.y, .covered = Matrix::Zero(veil_resolution, veil_resolution)};
  for (std::size_t k = 0; k < constraints.size(); ++k) {
    if (constraints[k].is_equality()) continue;
    veil.covered = veil.covered.cwiseMax(plane.rows[k].unaryExpr(
        [&](double value) { return std::isnan(value) || constraints[k].violation(value) > 0 ? 1.0 : 0.0; }));
  }
  return veil;
}

/// Where on a curve its name stands: within the picture, and away from all that is to be seen.
std::array<double, 2> place_for_name(const Curve& curve, const Box& plane,
                                     const std::vector<std::array<double, 2>>& taken) {
  constexpr double margin = 0.08;
  std::array<double, 2> chosen{curve.x[curve.x.size() / 2], curve.y[curve.y.size() / 2]};
  double most = -1;
  for (const double part : {0.35, 0.65, 0.5, 0.2, 0.8}) {
    const auto k = static_cast<std::size_t>(part * static_cast<double>(curve.x.size() - 1));
    const double across = (curve.x[k] - plane.lower[0]) / plane.width()[0],
                 up = (curve.y[k] - plane.lower[1]) / plane.width()[1];
    double room = std::min({across - margin, 1 - margin - across, up - margin, 1 - margin - up, 0.0}) + 0.2;
    for (const auto& [x, y] : taken)
      room = std::min(room, std::hypot((curve.x[k] - x) / plane.width()[0], (curve.y[k] - y) / plane.width()[1]));
    if (room <= most + 0.01) continue;
    most = room;
    chosen = {curve.x[k], curve.y[k]};
  }
  return chosen;
}

/// From a point in a direction, with a head.
LineLayer arrow(const Vector& from, const Vector& along, const Box& box, std::string color) {
  const Vector size = box.width();
  const Vector tip = from + along;
  const Vector back = -0.22 * along.cwiseQuotient(size);
  const Vector aside = 0.45 * Vector{{-back[1], back[0]}};
  const Vector one = tip + (back + aside).cwiseProduct(size), other = tip + (back - aside).cwiseProduct(size);
  return {.x = {from[0], tip[0], not_known, one[0], tip[0], other[0]},
          .y = {from[1], tip[1], not_known, one[1], tip[1], other[1]},
          .color = std::move(color),
          .width = 2.4,
          .cased = true};
}

} // namespace

void add_constraints(Panel& panel, const Problem& problem, const Vector& through, Index first, Index second,
                     const Box& plane, const std::vector<Vector>& avoid) {
  const std::vector<Constraint>& constraints = problem.constraints();
  if (constraints.empty()) return;
  const PlaneOfRows values(problem, through, first, second, plane);
  panel.layers.emplace_back(veil_over(values, constraints));
  TextLayer names{.size = 10, .on_ground = true};
  std::vector<std::array<double, 2>> taken;
  for (const KnownMinimum& minimum : problem.known_minima())
    taken.push_back({minimum.point[first], minimum.point[second]});
  for (const Vector& point : avoid) taken.push_back({point[first], point[second]});
  for (std::size_t k = 0; k < constraints.size(); ++k) {
    const Constraint& row = constraints[k];
    LineLayer edge{.width = row.is_equality() ? 2.6 : 1.8};
    std::size_t longest = 0;
    Curve named;
    for (const double limit : {row.lower, row.upper}) {
      if (!std::isfinite(limit) || (row.is_equality() && edge.x.size() > 0)) continue;
      for (Curve& curve : level_curves(values.x, values.y, values.rows[k], limit)) {
        edge.x.insert(edge.x.end(), curve.x.begin(), curve.x.end());
        edge.y.insert(edge.y.end(), curve.y.begin(), curve.y.end());
        edge.x.push_back(not_known);
        edge.y.push_back(not_known);
        if (curve.x.size() <= longest) continue;
        longest = curve.x.size();
        named = std::move(curve);
      }
    }
    if (longest == 0) continue; // its edge is outside the picture
    panel.layers.emplace_back(std::move(edge));
    taken.push_back(place_for_name(named, plane, taken));
    names.x.push_back(taken.back()[0]);
    names.y.push_back(taken.back()[1]);
    names.texts.push_back(row.name);
  }
  if (!names.x.empty()) panel.layers.emplace_back(std::move(names));
}

void add_balance(Panel& panel, const Problem& problem, const Outcome& outcome, const Box& box) {
  constexpr double longest = 0.16; // of the picture
  const auto& states = outcome.checked.constraints;
  const bool is_known = std::ranges::any_of(states, [](const ConstraintState& row) {
    return row.active && std::isfinite(row.multiplier) && row.multiplier != 0;
  });
  if (!is_known || problem.bundle()->derivatives() == Derivatives::none || !box.contains(outcome.point)) return;
  Matrix all;
  problem.bundle()->worker()->jacobian(outcome.point, all);
  const double better = -problem.sign();
  std::vector<Vector> along{better * all.row(0).transpose()};
  std::vector<std::string> labels{problem.sense() == Sense::minimize ? "downhill" : "uphill"};
  for (std::size_t k = 0; k < states.size(); ++k) {
    const double multiplier = states[k].multiplier;
    if (!states[k].active || !std::isfinite(multiplier) || multiplier == 0) continue;
    along.emplace_back(-better * multiplier * all.row(problem.parts().objectives + static_cast<Index>(k)).transpose());
    labels.push_back(states[k].name + " holds");
  }
  double most = 0;
  for (const Vector& each : along) most = std::max(most, each.cwiseQuotient(box.width()).norm());
  if (!(most > 0) || !std::isfinite(most)) return;
  for (std::size_t k = 0; k < along.size(); ++k) {
    const Vector shaft = longest / most * along[k];
    panel.layers.emplace_back(arrow(outcome.point, shaft, box, std::string(series_colors[k % series_colors.size()])));
    const Vector outwards = shaft.cwiseQuotient(box.width()).normalized();
    const Vector place = outcome.point + shaft + 0.025 * outwards.cwiseProduct(box.width());
    const bool is_level = std::abs(outwards[0]) > 0.5;
    panel.layers.emplace_back(TextLayer{.x = {place[0]},
                                        .y = {place[1]},
                                        .texts = {labels[k]},
                                        .align = !is_level         ? TextLayer::Align::center
                                                 : outwards[0] > 0 ? TextLayer::Align::left
                                                                   : TextLayer::Align::right,
                                        .size = 10,
                                        .on_ground = true});
  }
}

} // namespace tanzen
