#include "layout.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
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

std::vector<double> end_label_places(const Panel& panel, double height) {
  constexpr double line_height = 19; // pixels
  std::vector<double> wanted;
  for (const EndLabel& label : panel.end_labels) wanted.push_back(place_on(panel.y, label.y));
  return moved_apart(wanted, line_height / height);
}

namespace {

/// The range of an axis, or where it has none that of the lines' numbers on it.
std::array<double, 2> range_of(const Axis& axis, const Panel& panel, std::vector<double> LineLayer::*numbers) {
  if (axis.range) return *axis.range;
  double low = std::numeric_limits<double>::infinity(), high = -low;
  for (const Layer& layer : panel.layers) {
    const auto* line = std::get_if<LineLayer>(&layer);
    if (line == nullptr) continue;
    for (const double number : line->*numbers) {
      if (!std::isfinite(number)) continue;
      low = std::min(low, number);
      high = std::max(high, number);
    }
  }
  return {low, high > low ? high : low + 1};
}

} // namespace

Corner freest_corner(const Panel& panel) {
  constexpr double wide = 0.4, high = 0.3;
  constexpr int between = 8; // places looked at between two of a line
  Axis x = panel.x, y = panel.y;
  x.range = range_of(x, panel, &LineLayer::x);
  y.range = range_of(y, panel, &LineLayer::y);
  std::array<std::array<int, 2>, 2> lines{};
  const auto count = [&](double u, double v, int weight) {
    if ((u > wide && u < 1 - wide) || (v > high && v < 1 - high) || !std::isfinite(u + v)) return;
    lines[u > 0.5 ? 1 : 0][v > 0.5 ? 1 : 0] += weight;
  };
  for (const Layer& layer : panel.layers) {
    if (const auto* texts = std::get_if<TextLayer>(&layer)) {
      for (std::size_t k = 0; k < texts->x.size(); ++k)
        count(place_on(x, texts->x[k]), place_on(y, texts->y[k]), 10 * between);
    }
    const auto* line = std::get_if<LineLayer>(&layer);
    if (line == nullptr) continue;
    for (std::size_t k = 1; k < line->x.size(); ++k) {
      for (int step = 0; step < between; ++step) {
        const double part = static_cast<double>(step) / between;
        const double u = std::lerp(place_on(x, line->x[k - 1]), place_on(x, line->x[k]), part);
        const double v = std::lerp(place_on(y, line->y[k - 1]), place_on(y, line->y[k]), part);
        count(u, v, 1);
      }
    }
  }
  Corner best;
  for (const bool right : {true, false}) {
    for (const bool top : {true, false}) {
      if (lines[right][top] < lines[best.right][best.top]) best = {right, top};
    }
  }
  return best;
}

double place_on(const Axis& axis, double number) {
  const auto [low, high] = *axis.range;
  if (axis.logarithmic) return std::log(number / low) / std::log(high / low);
  return (number - low) / (high - low);
}

} // namespace tanzen
