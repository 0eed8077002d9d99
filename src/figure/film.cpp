#include "film.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// What all layers with places in frames have.
template <class Act>
void for_each_moving(Figure& figure, const Act& act) {
  for (Panel& panel : figure.panels) {
    for (Layer& layer : panel.layers) {
      if (auto* line = std::get_if<LineLayer>(&layer)) act(*line);
      if (auto* points = std::get_if<PointLayer>(&layer)) act(*points);
    }
  }
}

template <class Number>
void keep_span(std::vector<Number>& numbers, const std::array<std::size_t, 2>& span) {
  if (numbers.empty()) return;
  numbers = {numbers.begin() + static_cast<std::ptrdiff_t>(span[0]),
             numbers.begin() + static_cast<std::ptrdiff_t>(span[1])};
}

/// The distance of a place from the line between two, in parts of the picture.
double distance(double px, double py, double ax, double ay, double bx, double by) {
  const double dx = bx - ax, dy = by - ay, length = dx * dx + dy * dy;
  const double part = length > 0 ? std::clamp(((px - ax) * dx + (py - ay) * dy) / length, 0.0, 1.0) : 0;
  return std::hypot(px - ax - part * dx, py - ay - part * dy);
}

} // namespace

Film::Film(Trace::Column column, const std::vector<const Trace*>& traces, std::size_t most) : by(column) {
  std::vector<double> all;
  for (const Trace* trace : traces) {
    for (std::size_t row = 0; row < trace->rows(); ++row) all.push_back(trace->at(row, by));
  }
  if (all.empty()) return;
  std::ranges::sort(all);
  all.erase(std::unique(all.begin(), all.end()), all.end());
  if (all.size() <= most) {
    moments = std::move(all);
    return;
  }
  const double first = all.front(), last = all.back();
  for (std::size_t k = 0; k < most; ++k)
    moments.push_back(std::round(first + (last - first) * static_cast<double>(k) / static_cast<double>(most - 1)));
  moments.erase(std::unique(moments.begin(), moments.end()), moments.end());
}

std::vector<std::size_t> Film::rows_shown(const Trace& trace) const {
  const std::vector<double> counted = trace.column(Trace::fixed_names()[by]);
  std::vector<std::size_t> shown;
  for (const double moment : moments) {
    const auto after = std::ranges::upper_bound(counted, moment);
    shown.push_back(std::max<std::size_t>(1, static_cast<std::size_t>(after - counted.begin())));
  }
  return shown;
}

std::vector<std::string> Film::names() const {
  std::vector<std::string> all;
  for (const double moment : moments)
    all.push_back(by == Trace::iteration ? fmt::format("iteration {:.0f}", moment)
                                         : counted(static_cast<long long>(moment), "evaluation"));
  return all;
}

double Film::seconds() const {
  return std::min(10.0, 0.25 * static_cast<double>(moments.size()));
}

std::vector<std::size_t> seen_places(const std::vector<double>& x, const std::vector<double>& y, double width,
                                     double height, const std::vector<std::size_t>& kept) {
  constexpr double unseen = 1.0 / 4000;
  const std::size_t count = x.size();
  if (count == 0) return {};
  std::vector<char> stays(count, 0);
  stays.front() = stays.back() = 1;
  for (const std::size_t place : kept) stays[place] = 1;
  for (std::size_t k = 0; k < count; ++k) {
    if (std::isfinite(x[k]) && std::isfinite(y[k])) continue;
    stays[k] = 1;
    if (k > 0) stays[k - 1] = 1;
    if (k + 1 < count) stays[k + 1] = 1;
  }
  std::vector<std::array<std::size_t, 2>> stretches;
  for (std::size_t from = 0, to = 1; to < count; ++to) {
    if (stays[to] == 0) continue;
    stretches.push_back({from, to});
    from = to;
  }
  while (!stretches.empty()) {
    const auto [from, to] = stretches.back();
    stretches.pop_back();
    double farthest = 0;
    std::size_t at = from;
    for (std::size_t k = from + 1; k < to; ++k) {
      const double away =
          distance(x[k] / width, y[k] / height, x[from] / width, y[from] / height, x[to] / width, y[to] / height);
      if (away > farthest) {
        farthest = away;
        at = k;
      }
    }
    if (!(farthest > unseen)) continue;
    stays[at] = 1;
    stretches.push_back({from, at});
    stretches.push_back({at, to});
  }
  std::vector<std::size_t> places;
  for (std::size_t k = 0; k < count; ++k) {
    if (stays[k] != 0) places.push_back(k);
  }
  return places;
}

Figure with_frames(Figure figure, std::size_t count) {
  const std::size_t all = figure.frames.size();
  if (count >= all || all < 2) return figure;
  std::vector<std::size_t> chosen;
  for (std::size_t k = 0; k < count; ++k)
    chosen.push_back(count == 1 ? all - 1
                                : static_cast<std::size_t>(std::lround(static_cast<double>(k * (all - 1)) /
                                                                       static_cast<double>(count - 1))));
  const auto thin = [&](auto& list) {
    if (list.size() != all) return;
    auto thinned = list;
    thinned.clear();
    for (const std::size_t frame : chosen) thinned.push_back(list[frame]);
    list = std::move(thinned);
  };
  for_each_moving(figure, [&](auto& layer) { thin(layer.shown); });
  thin(figure.frames);
  return figure;
}

Figure still_at(Figure figure, std::size_t frame) {
  for_each_moving(figure, [&](auto& layer) {
    if (layer.shown.empty()) return;
    const auto span = layer.shown[std::min(frame, layer.shown.size() - 1)];
    keep_span(layer.x, span);
    keep_span(layer.y, span);
    keep_span(layer.z, span);
    keep_span(layer.pointer, span);
    layer.shown.clear();
  });
  figure.frames.clear();
  return figure;
}

Figure still(Figure figure) {
  const std::size_t frames = figure.frames.size();
  return frames == 0 ? figure : still_at(std::move(figure), frames - 1);
}

} // namespace tanzen
