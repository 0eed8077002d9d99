#include "tanzen/figure/field.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

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

/// The next number at least as large of 1, 2, 5, 10, 20 and so on.
double round_up(double number) {
  const double decade = std::pow(10, std::floor(std::log10(number)));
  for (const double part : {1.0, 2.0, 5.0}) {
    if (number <= part * decade) return part * decade;
  }
  return 10 * decade;
}

/// Levels above `best` by 1, 2, 5, 10 and so on from `low` to `high`, or where those were more than `count` by whole
/// decades, or every second or third of them; above a number near the best that has no more digits than the least.
std::vector<double> round_decades(double best, double low, double high, int count) {
  const int first = static_cast<int>(std::floor(std::log10(low))), last = static_cast<int>(std::ceil(std::log10(high)));
  const bool is_fine = 3 * (last - first) <= count + 3;
  const int stride = std::max(1, static_cast<int>(std::ceil(static_cast<double>(last - first) / count)));
  std::vector<double> levels;
  double base = 0;
  for (int decade = first; decade <= last; decade += stride) {
    for (const double part : {1.0, 2.0, 5.0}) {
      const double distance = part * std::pow(10, decade);
      if ((!is_fine && part != 1) || distance < low || distance > high) continue;
      if (levels.empty()) base = std::floor(best / distance) * distance;
      levels.push_back(base + distance);
    }
  }
  return levels;
}

/// The multiples of a round step from above `best` up to `high` above it, at most `count` of them.
std::vector<double> round_steps(double best, double high, int count) {
  const double step = round_up(high / count);
  std::vector<double> levels;
  for (double k = std::floor(best / step) + 1; k * step < best + high; ++k) levels.push_back(k * step);
  return levels;
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
  const double sign = sign_of(sense);
  for (const double level :
       logarithmic ? round_decades(sign * best, low, high, count) : round_steps(sign * best, high, count))
    levels.push_back(sign * level);
  std::ranges::sort(levels);
  return levels;
}

void check_width(const Problem& problem, Index variable, double lower, double upper) {
  constexpr double narrowest = 1e-12; // of its size: the digits of numbers keep no more places apart
  if (upper - lower > narrowest * std::max(std::abs(lower), std::abs(upper))) return;
  throw InputError(fmt::format("the region of {} goes from {} to {}: it is too narrow for a picture; --region takes a "
                               "wider one",
                               problem.variables()[static_cast<std::size_t>(variable)].name, number_text(lower),
                               number_text(upper)));
}

namespace {

/// Values over the plane of two variables, the others as in `point`.
FieldLayer sampled_field(const Problem& problem, const Vector& point, Index first, Index second, const Box& box,
                         Index resolution) {
  check_width(problem, first, box.lower[0], box.upper[0]);
  check_width(problem, second, box.lower[1], box.upper[1]);
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
