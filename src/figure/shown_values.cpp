#include "shown_values.hpp"

#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace tanzen {
namespace {

/// Whether numbers above a floor span so much that a logarithm shows more of them.
bool spans_decades(const std::vector<std::vector<double>>& distances, double above, double decades) {
  double least = std::numeric_limits<double>::infinity(), most = 0;
  for (const auto& each : distances) {
    for (const double distance : each) {
      if (!(distance > above) || !std::isfinite(distance)) continue;
      least = std::min(least, distance);
      most = std::max(most, distance);
    }
  }
  return most > least * std::pow(10, decades);
}

} // namespace

std::optional<double> put_on_floor(std::vector<std::vector<double>>& distances, double resolution) {
  double least = std::numeric_limits<double>::infinity();
  bool is_needed = false;
  for (const auto& each : distances) {
    for (const double distance : each) {
      if (distance > resolution) least = std::min(least, distance);
      is_needed |= distance <= resolution;
    }
  }
  if (!is_needed) return std::nullopt;
  const double floor = std::isfinite(least) ? std::max(resolution, least / std::sqrt(10.0)) : resolution;
  for (auto& each : distances) {
    for (double& distance : each) {
      if (distance <= resolution) distance = floor;
    }
  }
  return floor;
}

ShownValues shown_values(std::vector<std::vector<double>> values, std::optional<double> best_known, double sign) {
  std::vector<double> all;
  double first = 0;
  for (auto& each : values) {
    for (double& value : each) {
      if (!std::isfinite(value)) value = not_known;
    }
    const auto begins = std::ranges::find_if(each, [](double value) { return std::isfinite(value); });
    if (begins != each.end()) first = std::max(first, std::abs(*begins));
    all.insert(all.end(), each.begin(), each.end());
  }
  const bool are_positive = wants_logarithm(all);
  ShownValues plain{.title = "value", .series = values, .logarithmic = are_positive};
  std::erase_if(all, [](double value) { return std::isnan(value); });
  if (all.empty() || (!best_known && are_positive)) return plain;
  const double best =
      best_known.value_or(*std::ranges::min_element(all, {}, [sign](double value) { return sign * value; }));
  std::vector<std::vector<double>> distances = values;
  for (auto& each : distances) {
    for (double& value : each) value = sign * (value - best);
  }
  // What a difference of two numbers of this size, or of the terms that they were made of, cannot tell.
  const double resolution = std::numeric_limits<double>::epsilon() * std::max(std::abs(best), first);
  if (!spans_decades(distances, resolution, best_known ? 2 : 3)) return plain;
  ShownValues shown{.title = best_known ? "gap to the best value known"
                                        : fmt::format("distance from the best value found, {}", short_number(best, 6)),
                    .logarithmic = true};
  shown.series = std::move(distances);
  lay_on_floor(shown, resolution);
  return shown;
}

void lay_on_floor(ShownValues& gaps, double resolution) {
  gaps.floor = put_on_floor(gaps.series, resolution);
  if (gaps.floor) gaps.floor_name = fmt::format("at most {}", short_number(resolution, 1));
}

void add_floor(Panel& panel, const ShownValues& shown, double from, double to) {
  if (!shown.floor) return;
  double most = *shown.floor;
  for (const auto& each : shown.series) {
    for (const double value : each) most = std::max(most, std::isfinite(value) ? value : 0);
  }
  const double room = std::pow(most / *shown.floor, 0.07);
  panel.y.range = std::array{*shown.floor / room, most * std::sqrt(room)};
  panel.layers.emplace_back(LineLayer{
      .x = {from, to}, .y = {*shown.floor, *shown.floor}, .color = std::string(axis_color), .width = 1, .dash = 3});
  panel.layers.emplace_back(TextLayer{.x = {to},
                                      .y = {*shown.floor / std::sqrt(room)},
                                      .texts = {shown.floor_name},
                                      .align = TextLayer::Align::right,
                                      .size = 10});
}

} // namespace tanzen
