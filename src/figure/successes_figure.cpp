#include "comparison_layers.hpp"

#include "tanzen/base/text.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace tanzen {
namespace {

/// A colour of the surfaces, sand for none and night blue for all.
std::array<std::uint8_t, 3> shade(double part) {
  const double place = (1 - part) * static_cast<double>(surface_colors.size() - 1);
  const auto below = std::min(static_cast<std::size_t>(place), surface_colors.size() - 2);
  const auto channel = [](std::string_view color, std::size_t k) {
    int value = 0;
    std::from_chars(color.data() + 1 + 2 * k, color.data() + 3 + 2 * k, value, 16);
    return static_cast<double>(value);
  };
  std::array<std::uint8_t, 3> color{};
  for (std::size_t k = 0; k < 3; ++k) {
    const double low = channel(surface_colors[below], k), high = channel(surface_colors[below + 1], k);
    color[k] = static_cast<std::uint8_t>(std::lround(low + (place - static_cast<double>(below)) * (high - low)));
  }
  return color;
}

/// White lines between the cells.
LineLayer grid_lines(double columns, double rows) {
  constexpr double gap = std::numeric_limits<double>::quiet_NaN();
  LineLayer lines{.color = "#ffffff", .width = 2.5};
  const auto add = [&](double x1, double y1, double x2, double y2) {
    lines.x.insert(lines.x.end(), {x1, x2, gap});
    lines.y.insert(lines.y.end(), {y1, y2, gap});
  };
  for (double x = 1.5; x < columns; ++x) add(x, 0.5, x, rows + 0.5);
  for (double y = 1.5; y < rows; ++y) add(0.5, y, columns + 0.5, y);
  return lines;
}

} // namespace

Figure successes_figure(const Results& results, const ProblemGroup& group, std::optional<double> gap) {
  constexpr std::size_t most_rows = 40;
  const auto problems = comparable_problems(results, group, most_rows);
  Figure figure = comparison_figure(
      fmt::format("Part of the repeats that came to {}",
                  gap ? fmt::format("a gap of {}", number_text(*gap)) : std::string("the smallest target")),
      results, group);
  const auto methods = static_cast<Index>(results.methods().size()), rows = static_cast<Index>(problems.size());
  PixelLayer cells{.x = Vector::LinSpaced(methods, 1, static_cast<double>(methods)),
                   .y = Vector::LinSpaced(rows, 1, static_cast<double>(rows)),
                   .colors = {}};
  TextLayer dark{.size = rows > 20 ? 9 : 11}, light{.color = "#ffffff", .size = rows > 20 ? 9 : 11};
  Panel panel;
  for (Index row = 0; row < rows; ++row) {
    // The first problem stands at the top.
    const std::size_t p = problems[static_cast<std::size_t>(rows - 1 - row)];
    panel.y.names.push_back(results.problems()[p].label);
    const std::size_t target = results.target_for(p, gap);
    for (Index m = 0; m < methods; ++m) {
      const auto runs = results.runs(p, static_cast<std::size_t>(m));
      const auto solved =
          std::ranges::count_if(runs, [&](const ResultsRun* run) { return std::isfinite(run->cost_to(target)); });
      const double part = static_cast<double>(solved) / static_cast<double>(runs.size());
      cells.colors.push_back(shade(part));
      TextLayer& words = part > 0.3 ? light : dark;
      words.x.push_back(static_cast<double>(m + 1));
      words.y.push_back(static_cast<double>(row + 1));
      words.texts.push_back(fmt::format("{}/{}", solved, runs.size()));
    }
  }
  panel.layers.emplace_back(std::move(cells));
  panel.layers.emplace_back(grid_lines(static_cast<double>(methods), static_cast<double>(rows)));
  for (TextLayer* words : {&dark, &light}) {
    if (!words->x.empty()) panel.layers.emplace_back(std::move(*words));
  }
  panel.x.names = results.methods();
  panel.x.range = std::array{0.5, static_cast<double>(methods) + 0.5};
  panel.y.range = std::array{0.5, static_cast<double>(rows) + 0.5};
  figure.panels.push_back(std::move(panel));
  return figure;
}

} // namespace tanzen
