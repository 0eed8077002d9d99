#include "layout.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace tanzen {
namespace {

bool has_scale(const Panel& panel) {
  return std::ranges::any_of(panel.layers, [](const Layer& layer) {
    const auto* field = std::get_if<FieldLayer>(&layer);
    return field != nullptr && field->scale;
  });
}

/// The part of the screen's width that the longest of some names takes.
double width_of(const std::vector<std::string>& names, const Figure& figure) {
  constexpr double character = 8.2, gap = 18; // pixels
  std::size_t longest = 0;
  for (const std::string& name : names) longest = std::max(longest, character_count(name));
  return longest == 0 ? 0 : (character * static_cast<double>(longest) + gap) / figure.width;
}

/// Makes room for the names of an axis on the left and for those at the ends of curves on the right.
Rectangle with_room(Rectangle place, const Panel& panel, const Figure& figure) {
  std::vector<std::string> ends;
  for (const EndLabel& label : panel.end_labels) ends.push_back(label.text);
  place.left += std::max(0.0, width_of(panel.y.names, figure) - 0.045);
  place.right -= width_of(ends, figure);
  return place;
}

std::vector<Rectangle> bare_layout(const Figure& figure) {
  constexpr double top = 0.86, bottom = 0.135, left = 0.07, right = 0.975, gap = 0.085, stacked_gap = 0.065;
  std::vector<Rectangle> places;
  const auto count = static_cast<double>(figure.panels.size());
  if (figure.arrangement == Figure::Arrangement::stacked) {
    const double height = (top - bottom - (count - 1) * stacked_gap) / count;
    for (double k = 0; k < count; ++k) {
      const double upper = top - k * (height + stacked_gap);
      places.push_back({left, right, upper - height, upper});
    }
    return places;
  }
  const std::size_t in_rows = figure.panels.size() - (figure.last_panel_below ? 1 : 0);
  const std::size_t columns = figure.columns == 0 ? in_rows : std::min(figure.columns, in_rows);
  const auto rows = static_cast<double>((in_rows + columns - 1) / columns) + (figure.last_panel_below ? 1 : 0);
  const double row_gap = 0.12, height = (top - bottom - (rows - 1) * row_gap) / rows;
  for (std::size_t begin = 0; begin < in_rows; begin += columns) {
    const std::size_t end = std::min(begin + columns, in_rows);
    const double upper = top - static_cast<double>(begin / columns) * (height + row_gap);
    double all = 0;
    for (std::size_t k = begin; k < begin + columns; ++k)
      all += k < end ? figure.panels[k].width : figure.panels[begin].width;
    double at = left;
    for (std::size_t k = begin; k < end; ++k) {
      const double width = (right - left - static_cast<double>(columns - 1) * gap) * figure.panels[k].width / all;
      places.push_back({at, at + width - (has_scale(figure.panels[k]) ? 0.055 : 0), upper - height, upper});
      at += width + gap;
    }
  }
  if (figure.last_panel_below) places.push_back({left, right, bottom, bottom + height});
  return places;
}

} // namespace

std::vector<Rectangle> layout(const Figure& figure) {
  std::vector<Rectangle> places = bare_layout(figure);
  for (std::size_t k = 0; k < places.size(); ++k) places[k] = with_room(places[k], figure.panels[k], figure);
  return places;
}

std::vector<double> moved_apart(const std::vector<double>& wanted, double gap) {
  std::vector<std::size_t> order(wanted.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::ranges::stable_sort(order, {}, [&](std::size_t k) { return wanted[k]; });
  std::vector<double> places = wanted;
  for (std::size_t k = 1; k < order.size(); ++k)
    places[order[k]] = std::max(places[order[k]], places[order[k - 1]] + gap);
  // What was pushed beyond the end comes back, and pushes what is below it.
  double limit = 1;
  for (std::size_t k = order.size(); k-- > 0; limit -= gap) places[order[k]] = std::min(places[order[k]], limit);
  return places;
}

double place_on(const Axis& axis, double number) {
  const auto [low, high] = *axis.range;
  if (axis.logarithmic) return std::log(number / low) / std::log(high / low);
  return (number - low) / (high - low);
}

} // namespace tanzen
