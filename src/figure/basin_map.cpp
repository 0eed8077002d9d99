#include "tanzen/figure/sweep_figure.hpp"

#include "path_layers.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

using Color = std::array<std::uint8_t, 3>;

Color color_from(std::string_view text) {
  const auto part = [&](std::size_t at) {
    return static_cast<std::uint8_t>(std::stoi(std::string(text.substr(at, 2)), nullptr, 16));
  };
  return {part(1), part(3), part(5)};
}

Color mixed(const Color& a, const Color& b, double part) {
  Color result{};
  for (std::size_t k = 0; k < 3; ++k) result[k] = static_cast<std::uint8_t>(std::lround(a[k] + part * (b[k] - a[k])));
  return result;
}

/// The place on the colours of surfaces, 0 for the darkest to 1.
Color surface_color(double part) {
  const double place = 3 * part;
  const auto band = std::min<std::size_t>(2, static_cast<std::size_t>(place));
  return mixed(color_from(surface_colors[band]), color_from(surface_colors[band + 1]),
               place - static_cast<double>(band));
}

/// The colour of an end, lighter after few iterations and darker after many.
Color end_color(int group, double effort) {
  constexpr Color nowhere{0x2b, 0x2f, 0x36}, paper{0xff, 0xff, 0xff};
  if (group < 0) return nowhere;
  const Color base = color_from(series_colors[static_cast<std::size_t>(group) % series_colors.size()]);
  return effort < 0.5 ? mixed(mixed(base, paper, 0.5), base, 2 * effort)
                      : mixed(base, color_from(surface_colors[0]), 0.75 * (2 * effort - 1));
}

/// How many iterations runs took, by their rank among all: a few long runs do not leave the rest all alike.
class Efforts {
 public:
  explicit Efforts(const std::vector<SweepCell>& cells) {
    for (const SweepCell& cell : cells) sorted_.push_back(cell.iterations);
    std::ranges::sort(sorted_);
  }
  /// The part of all runs that took fewer.
  [[nodiscard]] double rank(std::int64_t iterations) const {
    const auto at = std::ranges::lower_bound(sorted_, iterations) - sorted_.begin();
    return static_cast<double>(at) / static_cast<double>(sorted_.size());
  }
  /// What a part of all runs takes at most.
  [[nodiscard]] std::int64_t most_of(double part) const {
    return sorted_[static_cast<std::size_t>(part * static_cast<double>(sorted_.size() - 1))];
  }

 private:
  std::vector<std::int64_t> sorted_;
};

/// A panel over the grid of starts, with a mark at each end.
Panel map_panel(const Problem& problem, PixelLayer pixels, const std::vector<EndGroup>& groups) {
  constexpr std::size_t most_marked = 40;
  Panel panel = panel_over(problem, {Vector{{pixels.x.minCoeff(), pixels.y.minCoeff()}},
                                     Vector{{pixels.x.maxCoeff(), pixels.y.maxCoeff()}}});
  panel.layers.emplace_back(std::move(pixels));
  PointLayer marks{.marker = Marker::diamond, .color = "#ffffff", .size = 1.5};
  for (std::size_t k = 0; k < std::min(groups.size(), most_marked); ++k) {
    marks.x.push_back(groups[k].point[0]);
    marks.y.push_back(groups[k].point[1]);
  }
  if (!marks.x.empty()) panel.layers.emplace_back(std::move(marks));
  return panel;
}

} // namespace

Figure basin_map(const Problem& problem, const Method& method, const Matrix& starts, Index columns,
                 const std::vector<SweepCell>& cells) {
  std::vector<int> group_of;
  const auto groups = group_ends(problem, cells, group_of);
  const Efforts efforts(cells);
  const Index rows = starts.cols() / columns;
  PixelLayer ends{.x = starts.row(0).head(columns).transpose(), .y = Vector(rows), .colors = {}};
  for (Index i = 0; i < rows; ++i) ends.y[i] = starts(1, i * columns);
  PixelLayer work = ends;
  for (std::size_t k = 0; k < cells.size(); ++k) {
    const double effort = efforts.rank(cells[k].iterations);
    ends.colors.push_back(end_color(group_of[k], effort));
    work.colors.push_back(surface_color(effort));
  }
  Figure figure;
  figure.title = fmt::format("{}, {}: where {} starts lead", problem.name(), method.name(), cells.size());
  figure.caption = fmt::format("{} on {}: {} by {} starts, {} ends; dark grey did not converge", method.label(),
                               problem.name(), columns, rows, groups.size());
  figure.panels = {map_panel(problem, std::move(ends), groups), map_panel(problem, std::move(work), groups)};
  figure.panels[0].title = "where each start ends; darker after more iterations";
  figure.panels[1].title = fmt::format("iterations, dark is few: half take at most {}, nine in ten at most {}",
                                       efforts.most_of(0.5), efforts.most_of(0.9));
  return figure;
}

} // namespace tanzen
