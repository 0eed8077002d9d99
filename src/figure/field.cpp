#include "tanzen/figure/field.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen {
namespace {

/// Finite values as distances from the best one, sorted.
std::vector<double> sorted_distances(const Matrix& values, Sense sense, double& best) {
  std::vector<double> finite;
  for (const double value : values.reshaped()) {
    if (std::isfinite(value)) finite.push_back(sense == Sense::minimize ? value : -value);
  }
  std::ranges::sort(finite);
  if (finite.empty()) return finite;
  const double least = finite.front();
  best = sense == Sense::minimize ? least : -least;
  for (double& value : finite) value -= least;
  return finite;
}

} // namespace

bool wants_logarithm(const std::vector<double>& values) {
  double least = std::numeric_limits<double>::infinity(), most = 0;
  for (const double value : values) {
    if (std::isnan(value)) continue;
    if (!(value > 0)) return false;
    if (!std::isfinite(value)) continue;
    least = std::min(least, value);
    most = std::max(most, value);
  }
  return most > 100 * least;
}

std::vector<double> contour_levels(const Matrix& values, Sense sense, int count) {
  double best = 0;
  const std::vector<double> distances = sorted_distances(values, sense, best);
  std::vector<double> levels;
  if (distances.empty() || distances.back() == 0) return levels;
  const auto at = [&](double part) {
    return distances[static_cast<std::size_t>(part * static_cast<double>(distances.size() - 1))];
  };
  // The lowest two in a thousand tell how deep the detail goes; a few spikes must not set the upper end.
  const double low = std::max(at(0.002), 1e-12 * distances.back());
  const double high = std::max(at(0.995), low);
  const bool logarithmic = high > 100 * low && at(0.25) * 10 < high;
  for (int k = 0; k < count; ++k) {
    const double part = (k + (logarithmic ? 0 : 1)) / static_cast<double>(logarithmic ? count - 1 : count + 1);
    const double distance = logarithmic ? low * std::pow(high / low, part) : high * part;
    levels.push_back(sense == Sense::minimize ? best + distance : best - distance);
  }
  std::ranges::sort(levels);
  levels.erase(std::unique(levels.begin(), levels.end()), levels.end());
  return levels;
}

namespace {

/// Values over the plane of two variables, the others as in `point`.
FieldLayer sampled_field(const Problem& problem, const Vector& point, Index first, Index second, const Box& box,
                         Index resolution) {
  FieldLayer field;
  field.x = Vector::LinSpaced(resolution, box.lower[0], box.upper[0]);
  field.y = Vector::LinSpaced(resolution, box.lower[1], box.upper[1]);
  field.values.resize(resolution, resolution);
  const auto worker = problem.objective().worker();
  Matrix points = point.replicate(1, resolution);
  points.row(second) = field.y;
  Vector values;
  for (Index j = 0; j < resolution; ++j) {
    points.row(first).setConstant(field.x[j]);
    worker->values(points, values);
    field.values.col(j) = values.unaryExpr(
        [](double value) { return std::isfinite(value) ? value : std::numeric_limits<double>::quiet_NaN(); });
  }
  field.levels = contour_levels(field.values, problem.sense());
  return field;
}

} // namespace

FieldLayer landscape_field(const Problem& problem, const Box& box, Index resolution) {
  return sampled_field(problem, Vector::Zero(2), 0, 1, box, resolution);
}

FieldLayer plane_field(const Problem& problem, const Vector& through, Index first, Index second, Index resolution) {
  const Box region = problem.region();
  const Box box{Vector{{region.lower[first], region.lower[second]}},
                Vector{{region.upper[first], region.upper[second]}}};
  return sampled_field(problem, through, first, second, box, resolution);
}

} // namespace tanzen
